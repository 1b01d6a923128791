<script lang="ts">
  import type { Schemas } from '../api/client';
  import { session } from '../state/session.svelte';
  import { formatLocal, hours, localAt } from '../time/when';

  /** Loaded trailers, and other freight, that stand until a truck takes them. */
  let { standing }: { standing: Schemas['PlanStanding'][] } = $props();
  const when = (at: string) => formatLocal(localAt(at, session.zone));
  const since = (at: string) => hours(Math.round((session.now - Date.parse(at)) / 60_000));
</script>

<h2 class="px-5 pt-4 pb-1 font-bold">Waiting at a transfer <span class="fig text-mute">{standing.length}</span></h2>
<table class="mx-5 mb-4 text-sm">
  <thead class="text-mute text-left"
    ><tr
      ><th class="pr-6 font-normal">Trailer</th><th class="pr-6 font-normal">Load</th><th class="pr-6 font-normal"
        >Where</th
      ><th class="pr-6 font-normal">For</th><th class="pr-6 font-normal">Has to leave by</th><th class="font-normal"
        >Next truck</th
      ></tr
    ></thead
  >
  <tbody>
    {#each standing as s (s.transferId)}
      {@const late = Date.parse(s.deadline) < session.now}
      <tr class="border-line border-t">
        <td class="fig py-1 pr-6">{s.trailer ?? 'off its trailer'}</td>
        <td class="pr-6"><a class="text-lark fig underline" href="/load/{s.loadId}">{s.load}</a></td>
        <td class="pr-6">{s.place}{s.place === s.town ? '' : `, ${s.town}`}</td>
        <td class="fig pr-6">{since(s.since)}</td>
        <td class="fig pr-6 {late ? 'text-ember-word font-bold' : ''}">{when(s.deadline)}</td>
        <td class={s.who ? '' : 'text-ember-word font-bold'}>{s.who ?? 'none'}</td>
      </tr>
    {/each}
  </tbody>
</table>
