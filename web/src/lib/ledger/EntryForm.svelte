<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { api, moneyKey, take } from '$lib/api/client';
  import { figure, fromCents } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';
  import DateField from '$ui/DateField.svelte';
  import { asSent, newLine, totals, type Line } from './journal';
  import JournalLines from './JournalLines.svelte';

  /** A manual journal entry. */
  let { ondone }: { ondone: (entry: number) => void } = $props();
  let next = 2;
  let on = $state(session.today);
  let memo = $state('');
  let lines = $state<Line[]>([0, 1].map(newLine));
  const attempt = new Attempt();
  const draft = new Draft(
    () => 'entry',
    () => ({ on, memo, lines }),
    (v) => {
      ({ on, memo, lines } = v);
      next = 1 + Math.max(next, ...lines.map((l) => l.id));
    },
  );
  const total = $derived(totals(lines));
  const post = () =>
    attempt.run(async (money) => {
      const made = await take(
        api.POST('/api/ledger/entries', {
          body: {
            postedOn: on || null,
            memo,
            lines: lines.filter((l) => l.account || l.debit || l.credit).map(asSent),
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
  <JournalLines bind:lines {attempt} least={2} />
  {#if total.isTransfer}
    <p class="text-mute text-sm">
      The Canadian dollars are worth {figure(fromCents(Math.abs(total.debit - total.credit)))} US dollars: what the other
      lines are apart.
    </p>
  {/if}
  <div class="flex items-center justify-between">
    <Button small look="quiet" onclick={() => lines.push(newLine(next++))}>Add line</Button>
    <span
      class="fig text-sm {total.debit === total.credit || total.isTransfer
        ? 'text-mute'
        : 'text-marigold-word font-bold'}"
      >{figure(fromCents(total.debit))} / {figure(fromCents(total.credit))}{total.debit === total.credit ||
      total.isTransfer
        ? ''
        : `, ${figure(fromCents(Math.abs(total.debit - total.credit)))} apart`}</span
    >
  </div>
  {#if attempt.refused && (attempt.refused.general || attempt.at('lines'))}<p
      class="text-ember-word text-sm"
      role="alert"
    >
      {attempt.refused.message}
    </p>{/if}
  <div>
    <Button
      look="main"
      type="submit"
      busy={attempt.busy}
      disabled={!memo.trim() || total.debit + total.credit === 0 || (total.debit === total.credit) === total.isTransfer}
      >Post {figure(fromCents(Math.max(total.debit, total.credit))) || 'entry'}</Button
    >
  </div>
  <p class="text-mute text-sm">
    Receivables, payables, advances and wages are control accounts: invoices, bills and settlements post to them.
  </p>
</form>
