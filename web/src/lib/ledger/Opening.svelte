<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { cents, figure, fromCents, sum } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { Draft } from '$lib/state/draft.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import DateField from '$ui/DateField.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import Part from '$ui/Part.svelte';
  import { asSent, newLine, totals, type Line } from './journal';
  import JournalLines from './JournalLines.svelte';
  import { kinds, type Item } from './opening';
  import OpeningItems from './OpeningItems.svelte';

  /** Opening balances: what another system had on the last day of the old books. */
  let on = $state('');
  let lines = $state<Line[]>([]);
  let items = $state<Item[]>([]);
  let next = 1;
  const nextId = () => next++;
  let left = $state<Schemas['Money'] | null>(null);
  const attempt = new Attempt();
  const draft = new Draft(
    () => 'opening balances',
    () => ({ on, lines, items }),
    (v) => {
      ({ on, lines, items } = v);
      next = 1 + Math.max(0, ...lines.map((l) => l.id), ...items.map((i) => i.id));
    },
  );
  const load = () =>
    take(api.GET('/api/ledger/opening'))
      .then((v) => (left = v.left ?? null))
      .catch(showError);
  $effect(() => {
    void load();
    return live.follow(load, ['ledger']);
  });
  /** Debit less credit on account 3900 once this is entered. */
  const after = $derived.by(() => {
    const of = (kind: string) => cents(sum(items.filter((i) => i.kind === kind).map((i) => i.amount)));
    const typed = totals(lines);
    return cents(left) - typed.debit + typed.credit - of('invoice') - of('advance') + of('bill') + of('credit');
  });
  const counted = (n: number, one: string) => (n ? `${n} ${one}${n === 1 ? '' : 's'}` : '');
  const enter = () =>
    attempt.run(async (money) => {
      const made = await take(
        api.POST('/api/ledger/opening', {
          body: {
            on: on || null,
            lines: lines.map(asSent),
            items: items.map((i) => ({
              kind: i.kind,
              partyId: i.party?.id ?? null,
              number: i.number || null,
              on: i.on || null,
              dueOn: i.dueOn || null,
              amount: i.amount,
            })),
          },
          headers: money,
        }),
      );
      showDone(
        `Opening balances entered: ${[counted(made.items, 'open item'), counted(made.lines, 'account balance')].filter(Boolean).join(' and ')}.`,
      );
      draft.done();
      [lines, items] = [[], []];
      await load();
    });
  const problem = (item: Item, field: string) =>
    attempt.at(`items[${items.findIndex((i) => i.id === item.id)}].${field}`);
</script>

<form
  class="max-w-5xl"
  onsubmit={(e) => {
    e.preventDefault();
    void enter();
  }}
>
  <DraftNotice {draft} />
  <p class="text-mute mb-3 max-w-3xl text-sm">
    What the old books show at the end of their last day. Each open invoice, bill, advance and credit is entered by
    itself, so it can be paid and aged here; every other account gets its balance. All of it is posted against account
    3900, which is zero once the whole trial balance is entered.
  </p>
  <DateField class="mb-4 w-44" label="Last day of the old books" required bind:value={on} problem={attempt.at('on')} />
  <div class="-mx-5">
    <Part title="Account balances">
      {#snippet aside()}
        <Button small look="quiet" onclick={() => lines.push(newLine(nextId()))}>Add account</Button>
      {/snippet}
      <div class="flex flex-col gap-2"><JournalLines bind:lines {attempt} required /></div>
      {#if lines.length === 0}
        <p class="text-mute text-sm">
          None entered: bank, equipment, loans, equity, and the year's income and expenses so far.
        </p>
      {/if}
    </Part>
    {#each kinds as kind (kind.kind)}
      <OpeningItems {kind} bind:items {problem} {nextId} />
    {/each}
  </div>
  {#if attempt.refused}<p class="text-ember-word mb-2 text-sm" role="alert">{attempt.refused.message}</p>{/if}
  <div class="mt-2 flex items-center gap-4">
    <Button look="main" type="submit" busy={attempt.busy} disabled={!session.may('ledger.post')}
      >Enter opening balances</Button
    >
    <span class="text-sm {after === 0 ? 'text-mute' : 'text-marigold-word font-bold'}"
      >{after === 0
        ? `Account 3900 ${lines.length + items.length > 0 ? 'will be' : 'is'} zero.`
        : `Account 3900 ${lines.length + items.length > 0 ? 'will have' : 'has'} ${figure(fromCents(Math.abs(after)))} ${after > 0 ? 'debit' : 'credit'} left.`}</span
    >
  </div>
</form>
