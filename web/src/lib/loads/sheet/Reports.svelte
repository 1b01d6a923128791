<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { api, ifMatch, Refused, take, type Schemas } from '$lib/api/client';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { instantOf, localAt, formatLocal, type Local, formatShort } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';
  import WhenField from '$ui/WhenField.svelte';
  import { reportLabels } from '../labels';
  import AddStop from './AddStop.svelte';

  /** Exceptions and check calls, and the form to add one. */
  let { view, onchanged }: { view: Schemas['LoadSheetView']; onchanged: () => Promise<void> } = $props();
  const l = $derived(view.sheet.load);
  let saying = $state(false);
  let adding = $state(false);
  let kind = $state('delay');
  let stop = $state('');
  let words = $state('');
  let pieces = $state('');
  let at = $state<Local | null>(null);
  let refused = $state<Refused | null>(null);
  let busy = $state(false);
  const draft = new Draft(
    () => `report ${view.sheet.load.id}`,
    () => ({ kind, stop, words, pieces, at }),
    (v) => {
      ({ kind, stop, words, pieces, at } = v);
    },
  );
  const carried = $derived(l.state === 'covered' || l.state === 'rolling');
  const kinds = $derived(
    Object.entries(reportLabels)
      .filter(([k]) => k === 'note' || carried || (l.state === 'delivered' && (k === 'short' || k === 'damaged')))
      .map(([value, label]) => ({ value, label })),
  );
  $effect(() => {
    if (!kinds.some((k) => k.value === kind)) kind = kinds[0].value;
  });
  const ahead = $derived(l.stops.find((s) => !s.arrivedAt) ?? null);
  const townOf = (id: number | null) => l.stops.find((s) => s.id === id)?.town;
  const zoneOf = (id: number | null) => l.stops.find((s) => s.id === id)?.zone ?? session.zone;

  async function say() {
    busy = true;
    refused = null;
    try {
      const late = kind === 'delay' || kind === 'breakdown';
      const zone = stop ? zoneOf(Number(stop)) : (ahead?.zone ?? session.zone);
      const done = await take(
        api.POST('/api/loads/{id}/reports', {
          params: { path: { id: l.id } },
          body: {
            kind: kind as Schemas['ReportKind'],
            stopId: stop ? Number(stop) : null,
            note: words,
            expectedAt: late && at ? instantOf(at, zone) : null,
            pieces: (kind === 'short' || kind === 'damaged') && pieces.trim() ? Number(pieces) : null,
          },
          headers: ifMatch(l.version),
        }),
      );
      draft.done();
      showDone(`${done.summary}.`, () => takeBack(done.id));
      words = pieces = '';
      at = null;
      saying = false;
    } catch (e) {
      if (e instanceof Refused) refused = e;
      else showError(e);
    } finally {
      busy = false;
      await onchanged();
    }
  }
  async function takeBack(reportId: number) {
    await take(api.POST('/api/loads/{id}/reports/{reportId}/undo', { params: { path: { id: l.id, reportId } } })).catch(
      showError,
    );
    await onchanged();
  }
</script>

{#if view.sheet.reports.length > 0 || (session.may('loads.roll') && l.state !== 'draft' && l.state !== 'cancelled')}
  <Part title="Exceptions and check calls">
    {#snippet aside()}
      {#if session.may('loads.cover') && carried}<Button small look="quiet" onclick={() => (adding = !adding)}
          >Add a stop</Button
        >{/if}
      {#if session.may('loads.roll')}<Button small look="quiet" onclick={() => (saying = !saying)}
          >{carried || l.state === 'delivered' ? 'Report exception' : 'Add note'}</Button
        >{/if}
    {/snippet}
    {#if adding}<AddStop
        {view}
        ondone={async () => {
          adding = false;
          await onchanged();
        }}
      />{/if}
    {#if saying}
      <form
        class="border-line bg-paper mb-2 grid grid-cols-6 gap-2 rounded-md border p-3"
        aria-label="Report an exception or check call"
        onsubmit={(e) => {
          e.preventDefault();
          void say();
        }}
      >
        <DraftNotice {draft} class="col-span-6" />
        <Choice class="col-span-3" label="Type" bind:value={kind} options={kinds} problem={refused?.at('kind')} />
        {#if kind !== 'note'}
          <Choice
            class="col-span-3"
            label="Stop"
            bind:value={stop}
            problem={refused?.at('stopId')}
            options={[
              { value: '', label: 'automatic' },
              ...l.stops.map((s) => ({ value: String(s.id), label: `${s.seq}. ${s.town}` })),
            ]}
          />
        {/if}
        <TextField
          class={kind === 'note' || kind === 'refused' ? 'col-span-6' : 'col-span-3'}
          label={kind === 'note' ? 'Note' : 'Reason'}
          required
          bind:value={words}
          maxlength={1000}
          problem={refused?.at('note')}
        />
        {#if kind === 'delay' || kind === 'breakdown'}
          <WhenField
            class="col-span-3"
            label="New ETA"
            bind:value={at}
            zone={stop ? zoneOf(Number(stop)) : ahead?.zone}
            like={ahead?.until}
            problem={refused?.at('expectedAt')}
          />
        {:else if kind === 'short' || kind === 'damaged'}
          <TextField
            class="col-span-3"
            label="Pieces"
            inputmode="numeric"
            bind:value={pieces}
            problem={refused?.at('pieces')}
          />
        {/if}
        <div class="col-span-6 flex items-center gap-2">
          <Button look="main" small type="submit" {busy}
            >{kind === 'note'
              ? 'Save note'
              : kind === 'delay'
                ? 'Record delay'
                : kind === 'breakdown'
                  ? 'Record breakdown'
                  : `Record as ${kind}`}</Button
          >
          {#if kind === 'refused' || kind === 'short' || kind === 'damaged'}<span class="text-mute text-sm"
              >This places a hold on billing until it is resolved.</span
            >{/if}
          {#if refused && !refused.problems.some((p) => p.field)}<p class="text-ember-word text-sm" role="alert">
              {refused.message}
            </p>{/if}
        </div>
      </form>
    {/if}
    <ul class="flex flex-col gap-1 text-sm">
      {#each view.sheet.reports as r (r.id)}
        <li class="flex gap-2">
          <span class="min-w-0 flex-1"
            ><b>{reportLabels[r.kind]}</b>{r.stopId ? ` in ${townOf(r.stopId)}` : ''}{r.pieces
              ? `, ${r.pieces} pieces`
              : ''}: {r.note}{r.expectedAt ? ` · now ${formatLocal(localAt(r.expectedAt, zoneOf(r.stopId)))}` : ''}<span
              class="text-mute"
            >
              · {r.who ?? ''} {formatShort(localAt(r.at, session.zone))}</span
            ></span
          >
          {#if session.may('loads.roll')}<button
              class="text-lark shrink-0 underline-offset-2 hover:underline"
              onclick={() => takeBack(r.id)}>Undo</button
            >{/if}
        </li>
      {/each}
    </ul>
  </Part>
{/if}
