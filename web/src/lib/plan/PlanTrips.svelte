<script lang="ts">
  import { figure } from '../money';
  import { session } from '../state/session.svelte';
  import { formatLocal, localAt } from '../time/when';
  import Part from '$ui/Part.svelte';
  import { loadsOf, type Trip } from './plan';

  /** The trips of a driver, truck or trailer. */
  interface Props {
    trips: Trip[];
    /** With empty miles and margin. */
    full?: boolean;
  }
  let { trips, full = false }: Props = $props();
  const when = (at: string) => formatLocal(localAt(at, session.zone));
</script>

<Part title="Trips">
  {#each trips as t (t.id)}
    <p class="border-line flex justify-between gap-3 border-b py-1.5 text-sm">
      <span class="min-w-0"
        ><a class="text-lark fig underline" href="/trip/{t.id}">{t.number}</a>
        {t.lane}
        <span class="text-mute block truncate"
          >{t.startedAt ? 'since' : 'from'} {when(t.startedAt ?? t.setsOut)} · load {loadsOf(t).join(', ')}</span
        ></span
      >
      <span class="fig shrink-0 text-right"
        >{t.miles} mi{#if full && t.emptyMiles !== null}<span class="text-mute block">{t.emptyMiles} empty</span
          >{/if}{#if full && t.margin}<span class="block">{figure(t.margin)}</span>{/if}</span
      >
    </p>
  {:else}<p class="text-mute text-sm">No trips in these days.</p>{/each}
</Part>
