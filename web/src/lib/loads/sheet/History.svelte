<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { onChange } from '$lib/state/change.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatShort, localAt } from '$lib/time/when';
  import Part from '$ui/Part.svelte';

  /** What happened to a load, or to those of a trip, newest first. */
  interface Props {
    /** Of what it is: another one begins with the newest again. */
    of: number;
    events: Schemas['EventRow'][];
    emails?: Schemas['MailRow'][];
  }
  let { of, events, emails = [] }: Props = $props();
  const first = 12;
  let all = $state(false);
  onChange(
    () => of,
    () => {
      all = false;
    },
  );
  const shown = $derived(all ? events : events.slice(0, first));
  const by = (e: Schemas['EventRow']) =>
    `${e.who ?? (e.via === 'outside' ? 'external' : 'automatic')}${
      e.via === 'page' || e.via === 'outside' || e.via === 'system' ? '' : `, ${e.via === 'api' ? 'API' : e.via}`
    }`;
</script>

<Part title="History">
  <ul class="flex flex-col gap-1 text-sm">
    {#each shown as event (event.id)}
      <li class="flex gap-2">
        <span class="fig text-mute w-28 shrink-0">{formatShort(localAt(event.at, session.zone))}</span>
        <span class="min-w-0 flex-1 break-words">{event.summary}<span class="text-mute">{` · ${by(event)}`}</span></span
        >
      </li>
    {/each}
  </ul>
  {#if events.length > first}<button class="text-lark mt-1 text-sm hover:underline" onclick={() => (all = !all)}
      >{all ? 'Show less' : `Show all ${events.length}`}</button
    >{/if}
  {#each emails.filter((m) => m.lastError && !m.sentAt) as mail (mail.id)}
    <p class="text-ember-word mt-1 text-sm">Email to {mail.to} failed: {mail.lastError}. It will be retried.</p>
  {/each}
</Part>
