<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import type { Axis } from '$ui/axis';
  import Stopline from '$ui/Stopline.svelte';
  import Status from '$ui/Status.svelte';
  import { equipmentLabels, lane, statusWidth } from './labels';

  interface Props {
    line: Schemas['LoadLine'];
    axis: Axis;
    /** Whether there is a column for the driver or carrier. */
    who?: boolean;
    roomy?: boolean;
  }
  let { line, axis, who = false, roomy = false }: Props = $props();
  const load = $derived(line.load);
</script>

<span class="flex h-11 items-center pr-4 pl-5">
  <span class="fig w-[54px] shrink-0 font-bold">{load.number}</span>
  <span class="min-w-0 flex-1 pr-2">
    <span class="block truncate leading-5 font-bold">{lane(load)}</span>
    <span class="text-mute block truncate text-sm leading-4"
      >{load.customer ?? 'no customer yet'}{who
        ? ''
        : ` · ${[load.equipment ? equipmentLabels[load.equipment] : null, load.freight].filter(Boolean).join(' · ')}`}</span
    >
  </span>
  {#if who}<span class="{roomy ? 'w-[150px]' : 'w-[104px]'} shrink-0 truncate pr-2 text-sm">{load.who ?? ''}</span>{/if}
  <span class="shrink-0" style:width="{axis.width}px"><Stopline {load} visits={line.visits} {axis} /></span>
  <span class="shrink-0 truncate text-right text-sm" style:width="{statusWidth()}px"
    ><Status urgency={line.urgency}>{line.status}</Status></span
  >
</span>
