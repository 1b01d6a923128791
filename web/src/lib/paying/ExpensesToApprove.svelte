<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { latest } from '$lib/api/latest';
  import { sums } from '$lib/money';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import ExpenseRow from '$lib/trips/ExpenseRow.svelte';

  /** Expenses that drivers and dispatch reported, oldest first. */
  let rows = $state<Schemas['TripExpenseRow'][]>([]);
  const load = latest(
    () => take(api.GET('/api/expenses/reported')),
    (answer) => (rows = answer),
    showError,
  );
  $effect(() => {
    void load();
    return live.follow(load, ['expenses']);
  });
</script>

{#if rows.length > 0}
  <section
    class="border-line max-h-[45%] shrink-0 overflow-y-auto border-b px-5 pt-3 pb-2"
    aria-label="Expenses to approve"
  >
    <h2 class="mb-1 flex justify-between font-bold">
      <span>To approve <span class="text-mute font-normal">{rows.length}, reported by drivers and dispatch</span></span>
      <span class="fig">{sums(rows.map((x) => x.amount))}</span>
    </h2>
    {#each rows as x (x.id)}<ExpenseRow {x} trip onchanged={load} />{/each}
  </section>
{/if}
