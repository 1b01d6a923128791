<script lang="ts">
  import { type Money, api, Refused, take, type Schemas } from '$lib/api/client';
  import { figure } from '$lib/money';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { expenseLabels } from '$lib/trips/expenses';
  import { options } from '$lib/words';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';
  import X from '@lucide/svelte/icons/x';

  /** What a load on our truck is expected to cost and leave, and what was planned for it. Expenses are entered on its trip. */
  interface Props {
    load: Schemas['LoadRow'];
    trip: Schemas['TripView'];
    cost: NonNullable<Schemas['TripView']['cost']>;
    onchanged: () => Promise<unknown>;
  }
  let { load: l, trip, cost: c, onchanged }: Props = $props();
  let kind = $state<Schemas['CostKind']>('fuel');
  let expected = $state<Money | null>(null);
  let note = $state('');
  let refused = $state<Refused | null>(null);
  let busy = $state(false);

  async function addCost() {
    busy = true;
    refused = null;
    try {
      const cost = await take(
        api.POST('/api/loads/{id}/costs', {
          params: { path: { id: l.id } },
          body: { kind, expected, note: note || null },
        }),
      );
      showDone(`${expenseLabels[kind]} of ${figure(cost.expected)} planned for ${l.number}.`, () =>
        take(
          api.POST('/api/loads/{id}/costs/{costId}/remove', { params: { path: { id: l.id, costId: cost.id } } }),
        ).then(onchanged),
      );
      expected = null;
      note = '';
      await onchanged();
    } catch (e) {
      if (e instanceof Refused) refused = e;
      else showError(e);
    } finally {
      busy = false;
    }
  }
  async function costBack(id: number) {
    try {
      await take(api.POST('/api/loads/{id}/costs/{costId}/remove', { params: { path: { id: l.id, costId: id } } }));
      await onchanged();
    } catch (e) {
      showError(e);
    }
  }
</script>

<dl class="mt-2 grid grid-cols-[1fr_auto] gap-y-1 text-sm">
  <dt>Fuel</dt>
  <dd class="fig text-right">{figure(c.fuel)}</dd>
  <dt>Tolls</dt>
  <dd class="fig text-right">{figure(c.tolls)}</dd>
  <dt>Driver pay</dt>
  <dd class="fig text-right">{figure(c.driver)}</dd>
  {#if Number(c.payrollTax.amount) > 0}<dt>Payroll tax</dt>
    <dd class="fig text-right">{figure(c.payrollTax)}</dd>{/if}
  <dt>Truck, per mile and day</dt>
  <dd class="fig text-right">{figure(c.truck)}</dd>
  {#if Number(c.other.amount) > 0}<dt>Other</dt>
    <dd class="fig text-right">{figure(c.other)}</dd>{/if}
  <dt class="border-line border-t pt-1">
    <b>Profit</b> on {figure(l.revenue)}, {c.days}
    {c.days === 1 ? 'day' : 'days'}
  </dt>
  <dd class="fig border-line border-t pt-1 text-right font-bold">{figure(c.profit)}</dd>
  <dt class="text-mute">per mile, per day</dt>
  <dd class="fig text-mute text-right">
    {c.profitPerMile ? figure(c.profitPerMile) : '–'} · {figure(c.profitPerDay)}
  </dd>
</dl>
{#each trip.costs ?? [] as cost (cost.id)}
  <p class="flex items-baseline gap-2 text-sm">
    <span class="min-w-0 flex-1 truncate"
      >{expenseLabels[cost.kind]}{cost.note ? `, ${cost.note}` : ''}
      <span class="text-mute">by {cost.enteredBy}</span></span
    >
    <span class="fig">{figure(cost.expected)} planned</span>
    {#if session.may('loads.cover')}<button
        class="text-mute hover:bg-faint rounded p-0.5"
        aria-label="Remove {expenseLabels[cost.kind]}"
        onclick={() => costBack(cost.id)}><X size={13} /></button
      >{/if}
  </p>
{/each}
{#if session.may('loads.cover')}
  <div class="mt-1 grid grid-cols-[8rem_7rem_1fr_auto] items-end gap-2">
    <Choice label="Planned cost" bind:value={kind} options={options(expenseLabels)} />
    <MoneyField label="Amount" bind:value={expected} problem={refused?.at('expected')} />
    <TextField label="Note" bind:value={note} maxlength={200} problem={refused?.at('note')} />
    <Button small {busy} disabled={!expected} onclick={addCost}>Add</Button>
  </div>
{/if}
{#if l.tripId}<p class="mt-1 text-sm">
    <a class="text-lark underline" href="/trip/{l.tripId}">Expenses are on the trip</a>
  </p>{/if}
