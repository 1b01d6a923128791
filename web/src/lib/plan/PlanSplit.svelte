<script lang="ts">
  import WherePicker from '../companies/WherePicker.svelte';
  import { transferLabels } from '../loads/labels';
  import { localAt } from '../time/when';
  import { session } from '../state/session.svelte';
  import Choice from '$ui/Choice.svelte';
  import WhenField from '$ui/WhenField.svelte';
  import { legsOf, relays } from './plan';
  import type { Planner } from './planner.svelte';

  /** Where a leg of the picked trip is split, and who has the rest of it. The change is tried once place and time are entered. */
  let { planner }: { planner: Planner } = $props();
  const trip = $derived(planner.picked!.trip!);
  const split = $derived(planner.split!);
  const legs = $derived(legsOf(trip));
  const next = $derived(planner.target?.row?.id === trip.driverId ? '' : String(planner.target?.row?.id ?? ''));
  const others = $derived(split.method === 'swap' && planner.board ? relays(planner.board, trip) : []);
  let form = $state<HTMLElement>();
  $effect(() => form?.querySelector('input')?.focus());
  const at = (field: string) => planner.attempt.refused && planner.attempt.at(`moves[0].split.${field}`);
</script>

<div class="mt-2 grid grid-cols-2 gap-2 text-sm" role="group" aria-label="Split" bind:this={form}>
  {#if legs.length > 1}
    <Choice
      class="col-span-2"
      label="Load"
      bind:value={() => String(split.legId), (id) => planner.splitting({ legId: Number(id) })}
      options={legs.map((l) => ({ value: String(l.legId), label: l.load }))}
    />
  {/if}
  <WherePicker
    class="col-span-2"
    label="Transfer point"
    required
    bind:value={() => split.where, (where) => planner.splitting({ where })}
    problem={at('placeId') || undefined}
  />
  <WhenField
    label="Next truck takes it"
    required
    zone={split.where?.zone}
    like={localAt(trip.visits[0].arrives, session.zone)}
    bind:value={() => split.at, (time) => planner.splitting({ at: time })}
    problem={at('at') || undefined}
  />
  <Choice
    label="How"
    bind:value={() => split.method, (method) => planner.splitting({ method: method as typeof split.method })}
    options={Object.entries(transferLabels).map(([value, label]) => ({ value, label }))}
  />
  {#if split.method === 'swap'}
    <Choice
      class="col-span-2"
      label="Swap with"
      bind:value={() => String(split.swapWith ?? ''), (id) => planner.splitting({ swapWith: Number(id) || null })}
      problem={at('swapWithLoadId') || undefined}
      options={[
        { value: '', label: 'Another truck, assigned later' },
        ...others.map((o) => ({ value: String(o.loadId), label: `${o.driver}, ${o.load} ${o.lane}` })),
      ]}
    />
  {/if}
  {#if split.method !== 'swap' || !split.swapWith}
    <Choice
      class="col-span-2"
      label="Next driver"
      bind:value={() => next, (id) => planner.nextDriver(Number(id) || trip.driverId)}
      options={[
        { value: '', label: 'Assign later' },
        ...(planner.board?.drivers ?? [])
          .filter((d) => d.id !== trip.driverId)
          .map((d) => ({ value: String(d.id), label: d.freeTown ? `${d.name}, ${d.freeTown}` : d.name })),
      ]}
    />
  {/if}
</div>
