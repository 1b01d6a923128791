<script lang="ts">
  import { api, take, type Schemas } from '../api/client';
  import type { Where } from '../companies/find';
  import WherePicker from '../companies/WherePicker.svelte';
  import { Attempt } from '../state/attempt.svelte';
  import { onChange } from '../state/change.svelte';
  import { showDone } from '../state/messages.svelte';
  import { session } from '../state/session.svelte';
  import { formatLocal, instantOf, localAt, type Local } from '../time/when';
  import Button from '$ui/Button.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';
  import WhenField from '$ui/WhenField.svelte';
  import { sourceOf, type Row } from './plan';
  import PlanTrips from './PlanTrips.svelte';

  /** A truck or trailer: where it is, since when, and its trips. */
  interface Props {
    row: Row;
    at: Schemas['UnitAt'] | null;
    may: boolean;
    onchanged: () => Promise<void>;
    /** Begins a move of this trailer. */
    onmove: (trailer: number) => void;
  }
  let { row, at, may, onchanged, onmove }: Props = $props();
  const attempt = new Attempt();
  let where = $state<Where | null>(null);
  let seen = $state<Local | null>(null);
  let note = $state('');
  onChange(
    () => row.key,
    () => {
      where = seen = null;
      note = '';
      attempt.refused = null;
    },
  );
  const when = (t: string) => formatLocal(localAt(t, session.zone));
  const save = () =>
    attempt.run(async () => {
      const ask = {
        params: { path: { id: row.id } },
        body: {
          placeId: where?.placeId ?? null,
          townId: where?.townId ?? null,
          at: seen ? instantOf(seen, session.zone) : null,
          note: note || null,
        },
      };
      const done = await take(
        row.by === 'trucks' ? api.POST('/api/trucks/{id}/location', ask) : api.POST('/api/trailers/{id}/location', ask),
      );
      where = seen = null;
      note = '';
      showDone(`${row.name} in ${done.where}, ${when(done.at)}.`);
      await onchanged();
    });
</script>

<div class="px-5 pt-4 pb-3">
  <h2 class="pr-8 text-lg font-bold">{row.name}</h2>
  {#if at}
    <p>{at.where}</p>
    <p class="text-mute text-sm">{when(at.at)}, {sourceOf(at)}</p>
  {:else}<p class="text-mute text-sm">Its location is not known.</p>{/if}
  {#if may && row.by === 'trailers'}<p class="mt-2">
      <Button small onclick={() => onmove(row.id)}>Move this trailer</Button>
    </p>{/if}
</div>
{#if may}
  <Part title="Set location">
    <form
      class="grid grid-cols-2 gap-2"
      aria-label="Location of {row.name}"
      onsubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <WherePicker class="col-span-2" label="Where it is" required bind:value={where} problem={attempt.at('placeId')} />
      <WhenField label="Seen there (now when empty)" bind:value={seen} problem={attempt.at('at')} />
      <TextField label="Note" bind:value={note} maxlength={200} problem={attempt.at('note')} />
      <div class="col-span-2"><Button small type="submit" busy={attempt.busy}>Set location</Button></div>
    </form>
  </Part>
{/if}
<PlanTrips trips={row.trips} />
