<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatLocal, localAt } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';

  /** Messages between dispatch and the drivers of a trip, and a box for another one. */
  interface Props {
    messages: Schemas['TripMessageRow'][];
    /** Whether this side is a driver's. */
    driver?: boolean;
    /** Whom a new message goes to; nobody can be written to when empty. */
    to: string;
    send: (text: string) => Promise<unknown>;
  }
  let { messages, driver = false, to, send }: Props = $props();
  let text = $state('');
  const attempt = new Attempt();
  const mine = (m: Schemas['TripMessageRow']) => (m.driverId !== null) === driver;
  const when = (at: string) => formatLocal(localAt(at, session.zone));
  const submit = () =>
    attempt.run(async () => {
      await send(text);
      text = '';
    });
</script>

<ol class="flex flex-col gap-1.5" aria-label="Messages">
  {#each messages as m (m.id)}
    <li
      class="max-w-[85%] rounded-md px-2.5 py-1.5 {mine(m) ? 'bg-lark-tint self-end' : 'border-line self-start border'}"
    >
      <p class="break-words whitespace-pre-line">{m.text}</p>
      <p class="text-mute text-sm">
        {mine(m) && driver ? 'you' : m.author}, {when(m.at)}{mine(m) && m.readAt ? ` · read ${when(m.readAt)}` : ''}
      </p>
    </li>
  {:else}<li class="text-mute text-sm">No messages yet.</li>{/each}
</ol>
{#if to}
  <form
    class="mt-2 flex items-end gap-2"
    onsubmit={(e) => {
      e.preventDefault();
      void submit();
    }}
  >
    <TextField class="flex-1" label="Message to {to}" bind:value={text} maxlength={1000} problem={attempt.at('text')} />
    <Button look="main" type="submit" busy={attempt.busy}>Send</Button>
  </form>
  {#if attempt.refused && !attempt.at('text')}<p class="text-ember-word mt-1 text-sm" role="alert">
      {attempt.refused.message}
    </p>{/if}
{/if}
