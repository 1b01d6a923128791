<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { figure } from '$lib/money';
  import Button from '$ui/Button.svelte';
  import { trailersOf } from './visits';

  /** A trip's truck, trailer and drivers, with what each is paid. */
  interface Props {
    sheet: Schemas['TripSheet'];
    may: boolean;
    /** Asks for the co-driver. */
    onchange: () => void;
  }
  let { sheet, may, onchange }: Props = $props();
  const trip = $derived(sheet.trip);
  const team = $derived(sheet.drivers.length > 1);
</script>

<p class="text-mute text-sm">
  truck {trip.truck}{sheet.trailers.length ? ` · ${trailersOf(sheet)}` : ''}{!team && trip.driverPhone
    ? ` · ${trip.driverPhone}`
    : ''}
</p>
{#if team}
  <ul class="text-sm" aria-label="Drivers">
    {#each sheet.drivers as d, i (d.driverId)}
      <li>
        <b>{d.name}</b>
        <span class="text-mute"
          >{i === 0 ? 'driver' : 'co-driver'}, {d.share}% of the work{d.pay ? `, pay ${figure(d.pay)}` : ''}{d.phone
            ? ` · ${d.phone}`
            : ''}</span
        >
      </li>
    {/each}
  </ul>
{/if}
{#if may}<Button class="-ml-2.5" small look="quiet" onclick={onchange}
    >{team ? 'Change co-driver' : 'Add co-driver'}</Button
  >{/if}
