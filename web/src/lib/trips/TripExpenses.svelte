<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { latest } from '$lib/api/latest';
  import { cents, figure, fromCents } from '$lib/money';
  import { onChange } from '$lib/state/change.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import Part from '$ui/Part.svelte';
  import ExpenseForm from './ExpenseForm.svelte';
  import ExpenseRow from './ExpenseRow.svelte';
  import { expenseLabels } from './expenses';

  /** A trip's expenses, and what was planned next to what was spent. */
  interface Props {
    sheet: Schemas['TripSheet'];
    /** The trip's cost follows. */
    onchanged: () => Promise<void>;
  }
  let { sheet, onchanged }: Props = $props();
  let view = $state<Schemas['TripExpensesView'] | null>(null);
  let entering = $state(false);
  const id = $derived(sheet.trip.id);
  const may = $derived(!sheet.trip.canceledAt && (session.may('loads.roll') || session.may('paying.enter')));
  const load = latest(
    () => take(api.GET('/api/trips/{id}/expenses', { params: { path: { id } } })),
    (answer) => (view = answer),
    showError,
  );
  onChange(
    () => id,
    () => {
      view = null;
      entering = false;
      void load();
      return live.follow(load, ['expenses', 'loads']);
    },
  );
  const changed = async () => {
    entering = false;
    await Promise.all([load(), onchanged()]);
  };
  const difference = (l: Schemas['SpendingLine']) =>
    l.spent && l.kind !== 'fuel' ? fromCents(cents(l.spent) - cents(l.planned)) : null;
</script>

<Part title="Expenses">
  {#snippet aside()}{#if may && !entering}<Button small onclick={() => (entering = true)}>Add expense</Button
      >{/if}{/snippet}
  {#if view}
    {#if session.may('margins.see')}
      <table class="w-full max-w-xl text-sm" aria-label="Planned and spent">
        <thead class="text-mute">
          <tr class="border-line border-b">
            <th class="text-left font-normal">Cost</th>
            <th class="text-right font-normal">Planned</th>
            <th class="text-right font-normal">Spent</th>
            <th class="text-right font-normal">Over or under plan</th>
            <th class="text-right font-normal">Gallons</th>
          </tr>
        </thead>
        <tbody>
          {#each view.lines as l (l.kind)}
            {@const by = difference(l)}
            <tr>
              <td class="py-0.5">{expenseLabels[l.kind]}</td>
              <td class="fig text-right">{figure(l.planned)}</td>
              <td class="fig text-right">{figure(l.spent)}</td>
              <td class="fig text-right {cents(by) > 0 ? 'text-marigold-word' : 'text-mute'}"
                >{by ? `${cents(by) > 0 ? '+' : ''}${figure(by)}` : ''}</td
              >
              <td class="fig text-mute text-right">{l.gallons ?? ''}</td>
            </tr>
          {/each}
        </tbody>
      </table>
      {#if view.lines.some((l) => l.kind === 'fuel' && l.gallons)}<p class="text-mute mt-1 text-sm">
          Fuel counts in the cost as the miles burn it, at the price paid.
        </p>{/if}
    {/if}
    {#if entering}<ExpenseForm {sheet} ondone={changed} oncancel={() => (entering = false)} />{/if}
    <div class="mt-2">
      {#each view.expenses as x (x.id)}<ExpenseRow {x} onchanged={changed} />
      {:else}<p class="text-mute text-sm">
          No expenses yet. Drivers report them on the phone with a photo of the receipt.
        </p>{/each}
    </div>
  {:else}<p class="text-mute text-sm" role="status">Loading expenses …</p>{/if}
</Part>
