<script lang="ts">
  import TransferFields from '../loads/sheet/TransferFields.svelte';
  import { localAt } from '../time/when';
  import { session } from '../state/session.svelte';
  import Choice from '$ui/Choice.svelte';
  import { legsOf, relays, splitField } from './plan';
  import type { Planner } from './planner.svelte';

  /** Where a leg of the picked trip is split, and who has the rest of it. The change is tried once place and time are entered. */
  let { planner }: { planner: Planner } = $props();
  const trip = $derived(planner.picked!.trip!);
  const split = $derived(planner.split!);
  const legs = $derived(legsOf(trip));
  const row = $derived(planner.target?.row);
  const next = $derived(row?.by === 'drivers' && row.id !== trip.driverId ? String(row.id) : '');
  const others = $derived(
    planner.board
      ? relays(planner.board, trip).map((o) => ({ value: String(o.loadId), label: `${o.driver}, ${o.load} ${o.lane}` }))
      : [],
  );
  let form = $state<HTMLElement>();
  $effect(() => form?.querySelector('input')?.focus());
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
  <TransferFields
    bind:where={() => split.where, (where) => planner.splitting({ where })}
    bind:at={() => split.at, (time) => planner.splitting({ at: time })}
    bind:method={() => split.method, (method) => planner.splitting({ method })}
    bind:swapWith={() => String(split.swapWith ?? ''), (id) => planner.splitting({ swapWith: Number(id) || null })}
    {others}
    like={localAt(trip.visits[0].arrives, session.zone)}
    problem={(field) => planner.attempt.at(splitField(field))}
  />
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
