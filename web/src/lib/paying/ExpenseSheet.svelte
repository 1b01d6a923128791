<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { latest } from '$lib/api/latest';
  import { figure, said } from '$lib/money';
  import { onChange } from '$lib/state/change.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatLocal, localAt } from '$lib/time/when';
  import ExpenseRow from '$lib/trips/ExpenseRow.svelte';
  import { expenseLabels } from '$lib/trips/expenses';

  /** An expense on a trip, with where it is in the books. */
  let { id }: { id: number } = $props();
  let x = $state<Schemas['TripExpenseRow'] | null>(null);
  const load = latest(
    () => take(api.GET('/api/expenses/{id}', { params: { path: { id } } })),
    (answer) => (x = answer),
    showError,
  );
  onChange(
    () => id,
    () => {
      x = null;
      void load();
      return live.follow(load, ['expenses']);
    },
  );
  const when = (at: string) => formatLocal(localAt(at, session.zone));
</script>

{#if x}
  <div class="p-5">
    <h2 class="pr-8 text-lg font-bold">{expenseLabels[x.kind]}, {said(x.amount)}</h2>
    <p class="text-mute mb-3 text-sm">trip {x.trip} · truck {x.truck} · {x.driver}</p>
    <ExpenseRow {x} trip onchanged={load} />
    <dl class="mt-4 grid grid-cols-[10rem_1fr] gap-y-1 text-sm">
      <dt class="text-mute">Account</dt>
      <dd>{x.account} {x.accountName}</dd>
      {#if x.amount?.currency === 'CAD'}<dt class="text-mute">In US dollars</dt>
        <dd class="fig">{figure(x.booked)}</dd>{/if}
      <dt class="text-mute">Reported</dt>
      <dd>{when(x.reportedAt)} by {x.reportedBy}</dd>
      {#if x.decidedAt}<dt class="text-mute capitalize">{x.state}</dt>
        <dd>{when(x.decidedAt)} by {x.decidedBy}</dd>{/if}
    </dl>
  </div>
{:else}<p class="text-mute p-5" role="status">Loading expense …</p>{/if}
