<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { api, moneyKey, take, type Money } from '$lib/api/client';
  import { cents, figure, fromCents, sum } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';
  import DateField from '$ui/DateField.svelte';
  import { bankCad, chart } from './accounts.svelte';

  /** A manual journal entry. */
  let { ondone }: { ondone: (entry: number) => void } = $props();
  type Line = { id: number; account: string; debit: Money | null; credit: Money | null };
  let next = 2;
  let on = $state(session.today);
  let memo = $state('');
  let lines = $state<Line[]>([0, 1].map((id) => ({ id, account: '', debit: null, credit: null })));
  const attempt = new Attempt();
  const draft = new Draft(
    () => 'entry',
    () => ({ on, memo, lines }),
    (v) => {
      ({ on, memo, lines } = v);
      next = 1 + Math.max(next, ...lines.map((l) => l.id));
    },
  );
  $effect(() => void chart.read().catch(showError));
  const options = $derived([
    { value: '', label: 'Choose' },
    ...chart.options(['asset', 'liability', 'equity', 'income', 'expense']),
  ]);
  /** Lines in Canadian dollars are worth what the others are apart. */
  const currencyOf = (l: Line) => (l.account === bankCad ? 'CAD' : 'USD');
  const usd = $derived(lines.filter((l) => currencyOf(l) === 'USD'));
  const isTransfer = $derived(usd.length < lines.length);
  const debit = $derived(cents(sum(usd.map((l) => l.debit))));
  const credit = $derived(cents(sum(usd.map((l) => l.credit))));
  const post = () =>
    attempt.run(async (money) => {
      const made = await take(
        api.POST('/api/ledger/entries', {
          body: {
            postedOn: on || null,
            memo,
            lines: lines
              .filter((l) => l.account || l.debit || l.credit)
              .map((l) => ({
                account: l.account || null,
                debit: l.debit,
                credit: l.credit,
                loadId: null,
                customerId: null,
                driverId: null,
                truckId: null,
              })),
          },
          headers: money,
        }),
      );
      showDone(`Entry ${made.id} posted.`, () =>
        take(
          api.POST('/api/ledger/entries/{id}/reverse', {
            params: { path: { id: made.id } },
            body: { on: on || null, why: 'undone right after posting' },
            headers: moneyKey(),
          }),
        ),
      );
      draft.done();
      ondone(made.id);
    });
</script>

<form
  class="flex flex-col gap-3 p-5"
  onsubmit={(e) => {
    e.preventDefault();
    void post();
  }}
>
  <DraftNotice {draft} />
  <h2 class="pr-8 text-lg font-bold">Journal entry</h2>
  <div class="grid grid-cols-[1fr_150px] gap-3">
    <TextField label="Description" required bind:value={memo} maxlength={200} problem={attempt.at('memo')} />
    <DateField label="Posting date" bind:value={on} problem={attempt.at('postedOn')} />
  </div>
  {#each lines as line, n (line.id)}
    <div class="grid grid-cols-[1fr_105px_105px_20px] items-end gap-2">
      <Choice label="Account" bind:value={line.account} {options} problem={attempt.at(`lines[${n}].account`)} />
      <MoneyField
        label="Debit"
        currency={currencyOf(line)}
        bind:value={line.debit}
        problem={attempt.at(`lines[${n}].debit`)}
      />
      <MoneyField
        label="Credit"
        currency={currencyOf(line)}
        bind:value={line.credit}
        problem={attempt.at(`lines[${n}].credit`)}
      />
      {#if lines.length > 2}<button
          type="button"
          class="text-mute hover:text-ink h-9"
          aria-label="Remove line {n + 1}"
          onclick={() => (lines = lines.filter((l) => l !== line))}>×</button
        >{/if}
    </div>
  {/each}
  {#if isTransfer}
    <p class="text-mute text-sm">
      The Canadian dollars are worth {figure(fromCents(Math.abs(debit - credit)))} US dollars: what the other lines are apart.
    </p>
  {/if}
  <div class="flex items-center justify-between">
    <Button small look="quiet" onclick={() => lines.push({ id: next++, account: '', debit: null, credit: null })}
      >Add line</Button
    >
    <span class="fig text-sm {debit === credit || isTransfer ? 'text-mute' : 'text-marigold-word font-bold'}"
      >{figure(fromCents(debit))} / {figure(fromCents(credit))}{debit === credit || isTransfer
        ? ''
        : `, ${figure(fromCents(Math.abs(debit - credit)))} apart`}</span
    >
  </div>
  {#if attempt.refused && (attempt.refused.general || attempt.at('lines'))}<p
      class="text-ember-word text-sm"
      role="alert"
    >
      {attempt.refused.message}
    </p>{/if}
  <div>
    <Button look="main" type="submit" busy={attempt.busy} disabled={!memo.trim() || debit === 0 || debit !== credit}
      >Post {figure(fromCents(Math.max(debit, credit))) || 'entry'}</Button
    >
  </div>
  <p class="text-mute text-sm">
    Receivables, payables, advances and wages are control accounts: invoices, bills and settlements post to them.
  </p>
</form>
