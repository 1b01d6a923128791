<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { transferDone, transferTask } from '$lib/loads/labels';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatLocal, localAt, zoneName } from '$lib/time/when';
  import Button from '$ui/Button.svelte';

  /** The driver takes freight over from another truck, or leaves it for the next one. */
  interface Props {
    load: Schemas['MyLoad'];
    t: Schemas['MyTransfer'];
    event: keyof typeof transferDone;
    ondone: () => Promise<void>;
    /** Shown instead until the driver has accepted the trip. */
    before?: import('svelte').Snippet;
  }
  let { load, t, event, ondone, before }: Props = $props();
  const attempt = new Attempt();
  async function say() {
    await attempt.run(async () => {
      const done = await take(
        api.POST('/api/mine/loads/{id}/transfers/{transferId}', {
          params: { path: { id: load.id, transferId: t.id } },
          body: { event, at: null },
          headers: { 'Lark-Via': 'phone' },
        }),
      );
      showDone(`${done.summary}.`);
    });
    await ondone();
  }
</script>

<h1 class="mt-2 text-xl font-bold">{t.place}</h1>
<p>{t.address ? `${t.address}, ` : ''}{t.town}</p>
<p class="mt-1">
  {transferTask[event][t.method]}{#if t.plannedAt}, <b>{formatLocal(localAt(t.plannedAt, t.zone))}</b>{t.zone !==
    session.zone
      ? ` ${zoneName(t.zone)} time`
      : ''}{/if}
</p>
{#if event === 'taken' && !t.leftAt}<p class="text-mute text-sm">The other truck is not there yet.</p>{/if}
{#if event === 'taken' && t.leftAt}<p class="text-mute text-sm">
    There since {formatLocal(localAt(t.leftAt, t.zone))}.
  </p>{/if}
<p class="mt-1">
  <a class="text-lark font-bold hover:underline" href="/api/mine/loads/{load.id}/trip-sheet" target="_blank"
    >Directions and trip sheet</a
  >
</p>
{#if attempt.refused}<p class="text-ember-word mt-3" role="alert">{attempt.refused.message}</p>{/if}
{#if before}{@render before()}{:else}
  <Button look="main" class="mt-5 h-16! w-full text-lg" busy={attempt.busy} onclick={() => void say()}
    >{transferDone[event][t.method]}</Button
  >
{/if}
