<script lang="ts">
  import { findPlaces } from '$lib/companies/find';
  import type { Refused } from '$lib/api/client';
  import PlaceForm from '$lib/companies/PlaceForm.svelte';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import Part from '$ui/Part.svelte';
  import Picker from '$ui/Picker.svelte';
  import WhenField from '$ui/WhenField.svelte';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import Plus from '@lucide/svelte/icons/plus';
  import X from '@lucide/svelte/icons/x';
  import { newStop, type Stop } from './typed';

  /** Pickups and deliveries in any order, each with an appointment or a window. */
  interface Props {
    stops: Stop[];
    refused: Refused | null;
    /** A new place was made in a stop. */
    onmade: () => void;
  }
  let { stops = $bindable(), refused, onmade }: Props = $props();
  let making = $state<{ name: string; key: number } | null>(null);
  const at = (i: number, field: string) => refused?.at(`stops[${i}].${field}`);
  const up = (i: number) => stops.splice(i - 1, 2, stops[i], stops[i - 1]);
  const tool = 'text-mute hover:bg-faint focus-visible:text-ink rounded p-1 disabled:invisible';
</script>

<Part title="Stops">
  {#snippet aside()}<Button small look="quiet" onclick={() => stops.splice(stops.length - 1, 0, newStop('pickup'))}
      ><Plus size={14} />Pickup</Button
    ><Button small look="quiet" onclick={() => stops.splice(stops.length - 1, 0, newStop('delivery'))}
      ><Plus size={14} />Delivery</Button
    >{/snippet}
  <ol class="flex flex-col gap-3">
    {#each stops as stop, i (stop.key)}
      <li class="flex gap-2">
        <svg width="14" class="mt-7 shrink-0" height="14" aria-hidden="true"
          ><circle
            cx="7"
            cy="7"
            r="5"
            fill={stop.place && stop.from ? 'var(--ink)' : 'none'}
            stroke="var(--ink)"
            stroke-width="1.8"
          /></svg
        >
        <div class="grid min-w-0 flex-1 grid-cols-12 gap-x-2 gap-y-1.5">
          <Choice
            class="col-span-3"
            label="Stop {i + 1}"
            bind:value={stop.kind}
            problem={at(i, 'kind')}
            options={[
              { value: 'pickup', label: 'Pickup' },
              { value: 'delivery', label: 'Delivery' },
            ]}
          />
          <Picker
            class={stop.window ? 'col-span-9' : 'col-span-5'}
            label="Place"
            required
            bind:value={stop.place}
            find={findPlaces}
            name={(p) => p.name}
            detail={(p) => `${p.town} ${p.region}`}
            key={(p) => p.id}
            problem={at(i, 'placeId')}
            hint={stop.place ? `${stop.place.town} ${stop.place.region}` : undefined}
            create={(name) => (making = { name, key: stop.key })}
            createLabel="New place"
          />
          <WhenField
            class={stop.window ? 'col-span-6' : 'col-span-4'}
            label={stop.window ? 'From' : 'Appointment'}
            required
            bind:value={stop.from}
            zone={stop.place?.zone}
            like={stop.from ?? stops[i - 1]?.from}
            problem={at(i, 'from')}
          />
          {#if stop.window}
            <WhenField
              class="col-span-6"
              label="Until"
              bind:value={stop.until}
              zone={stop.place?.zone}
              like={stop.until ?? stop.from}
              problem={at(i, 'until')}
            />
          {/if}
          {#if stop.place?.bookingNote}<p class="text-marigold-word col-span-12 text-sm" role="note">
              {stop.place.town}: {stop.place.bookingNote}
            </p>{/if}
          <div class="col-span-12 -mt-1 flex items-center gap-3">
            <button
              type="button"
              class="text-lark text-sm hover:underline"
              onclick={() => {
                stop.window = !stop.window;
                if (!stop.window) stop.until = null;
              }}>{stop.window ? 'Set time' : 'Window'}</button
            >
            <input
              class="text-mute focus:text-ink min-w-0 flex-1 border-b border-transparent bg-transparent text-sm focus:border-(--lark) focus:outline-none"
              placeholder="Stop note"
              aria-label="Note for stop {i + 1}"
              bind:value={stop.note}
              maxlength="1000"
            />
            {#if stops.length > 2}
              <button
                type="button"
                class={tool}
                aria-label="Move stop {i + 1} up"
                title="Move stop {i + 1} up"
                disabled={i === 0}
                onclick={() => up(i)}><ArrowUp size={15} /></button
              >
              <button
                type="button"
                class={tool}
                aria-label="Remove stop {i + 1}"
                title="Remove stop {i + 1}"
                onclick={() => stops.splice(i, 1)}><X size={15} /></button
              >
            {/if}
          </div>
          {#if making?.key === stop.key}
            <div class="col-span-12">
              <PlaceForm
                name={making.name}
                onmade={(p) => {
                  stop.place = p;
                  making = null;
                  onmade();
                }}
                oncancel={() => (making = null)}
              />
            </div>
          {/if}
        </div>
      </li>
    {/each}
  </ol>
</Part>
