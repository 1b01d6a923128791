<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { session } from '$lib/state/session.svelte';
  import { clockAt } from '$lib/time/when';
  import { foundWords } from './trips';

  /** What a map shows, as a table on paper below it. */
  interface Props {
    found?: Schemas['NearAnswer']['found'];
    /** Whether miles are a detour from a route. */
    detour?: boolean;
    loads?: Schemas['MapLoad'][];
  }
  let { found = [], detour = false, loads = [] }: Props = $props();
</script>

<table class="mt-3 hidden w-full text-[11px] print:table">
  <tbody>
    {#each found as f (`${f.kind} ${f.id}`)}
      <tr class="border-line border-b"
        ><td class="py-0.5 pr-3 font-bold">{f.name}</td><td class="pr-3">{foundWords[f.kind]}, {f.where}</td><td
          class="fig text-right">{detour ? '+' : ''}{f.miles.toFixed(0)} mi</td
        ></tr
      >
    {/each}
    {#each loads as l (l.id)}
      <tr class="border-line border-b"
        ><td class="fig py-0.5 pr-3 font-bold">{l.number}</td><td class="pr-3">{l.lane}</td><td class="pr-3"
          >{l.who ?? 'not covered'}</td
        ><td class="pr-3">{l.seenWhere ? `${l.seenWhere} ${clockAt(l.seenAt!, session.zone)}` : ''}</td><td
          class="text-right">{l.status}</td
        ></tr
      >
    {/each}
  </tbody>
</table>
