<script lang="ts">
  import type { Refused, Schemas } from '$lib/api/client';
  import PlaceField from '$lib/map/PlaceField.svelte';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';
  import X from '@lucide/svelte/icons/x';

  /** Via points and manual miles of the stretch to one stop. */
  interface Props {
    stretch: Schemas['StretchView'];
    refused: Refused | null;
    busy: boolean;
    via: Schemas['ViaRequest'][];
    miles: string;
    why: string;
    adding: Schemas['Candidate'] | null;
    /** Saves what was entered, or the standard route. */
    set: (body?: Schemas['RouteOverrideRequest']) => unknown;
    /** Adds a via point and saves. */
    over: (name: string, latitude: number, longitude: number) => unknown;
  }
  let {
    stretch: s,
    refused,
    busy,
    via = $bindable(),
    miles = $bindable(),
    why = $bindable(),
    adding = $bindable(),
    set,
    over,
  }: Props = $props();
</script>

<div class="bg-paper border-line my-1 flex flex-col gap-2 rounded-md border p-3">
  <p class="text-mute">Add a via point: type a place or click the map.</p>
  {#if via.length}<ul class="flex flex-wrap gap-1">
      {#each via as v, i (i)}<li class="border-line bg-panel flex items-center rounded-md border pl-2">
          {v.name}<button
            class="text-mute hover:bg-faint rounded p-1"
            aria-label="Remove via {v.name}"
            onclick={() => {
              via = via.filter((_, k) => k !== i);
              set();
            }}><X size={13} /></button
          >
        </li>{/each}
    </ul>{/if}
  <PlaceField
    label="Via"
    bind:value={adding}
    problem={refused?.at('via')}
    onchosen={(c) => {
      if (c) over(c.label, c.point.latitude!, c.point.longitude!);
    }}
  />
  <div class="grid grid-cols-[90px_1fr_auto] items-end gap-2">
    <TextField label="Manual miles" inputmode="numeric" bind:value={miles} problem={refused?.at('miles')} />
    <TextField label="Reason" bind:value={why} maxlength={200} problem={refused?.at('milesWhy')} />
    <Button small {busy} disabled={!miles.trim() || Number.isNaN(Number(miles))} onclick={() => set()}>Set</Button>
  </div>
  {#if s.milesSet !== null || s.via.length}<div>
      <Button
        small
        look="quiet"
        onclick={() => {
          miles = why = '';
          via = [];
          set({ miles: null, milesWhy: null, via: [] });
        }}>Reset to the standard route</Button
      >
    </div>{/if}
</div>
