<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { keepShown, latest } from '$lib/api/latest';
  import { figure } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { onChange } from '$lib/state/change.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatLocal, localAt } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Notice from '$ui/Notice.svelte';
  import Part from '$ui/Part.svelte';
  import CodriverForm from './CodriverForm.svelte';
  import TripActions from './TripActions.svelte';
  import TripCrew from './TripCrew.svelte';
  import TripMessages from './TripMessages.svelte';
  import TripName from './TripName.svelte';
  import TripRecords from './TripRecords.svelte';
  import TripExpenses from './TripExpenses.svelte';
  import TripLoading from './TripLoading.svelte';
  import TripLoads from './TripLoads.svelte';
  import TripRoute from './TripRoute.svelte';
  import TripOffers from './TripOffers.svelte';
  import TripStopForm from './TripStopForm.svelte';
  import Visits from './Visits.svelte';
  import { capacity, difference, trailersOf } from './visits';

  /** A trip: its visits in order, what is on board after each, its loads, miles and money; open loads that fit it. */
  let { id }: { id: number } = $props();
  let sheet = $state<Schemas['TripSheet'] | null>(null);
  let preview = $state<Schemas['TripPreview'] | null>(null);
  let missing = $state('');
  const attempt = new Attempt();
  let adding = $state(false);
  let crewing = $state(false);

  const load: () => Promise<void> = latest(
    () => take(api.GET('/api/trips/{id}', { params: { path: { id } } })),
    (trip) => {
      sheet = trip;
      missing = '';
    },
    keepShown(
      () => sheet,
      () => void load(),
      (e) => (missing = e instanceof Error ? e.message : 'This trip cannot be shown.'),
    ),
  );
  onChange(
    () => id,
    () => {
      sheet = preview = null;
      adding = crewing = false;
      attempt.refused = null;
      void load();
      return live.follow(load, ['loads', 'fleet']);
    },
  );
  const shown = $derived(preview?.sheet ?? sheet);
  const may = $derived(session.may('loads.cover') && !!sheet && !sheet.trip.endedAt && !sheet.trip.canceledAt);
  const ids = $derived(sheet?.visits.map((v) => v.id) ?? []);

  const look = (order: number[]) =>
    attempt.run(async () => {
      preview =
        order.join() === ids.join()
          ? null
          : await take(api.POST('/api/trips/{id}/preview', { params: { path: { id } }, body: { order } }));
    });
  const save = () =>
    attempt.run(async () => {
      const done = await take(
        api.PUT('/api/trips/{id}/order', {
          params: { path: { id } },
          body: { order: preview!.sheet.visits.map((v) => v.id), was: ids, allowLate: true },
        }),
      );
      const was = ids;
      showDone(`Order of trip ${done.number} changed.`, () =>
        take(
          api.PUT('/api/trips/{id}/order', {
            params: { path: { id } },
            body: { order: was, was: done.visits, allowLate: true },
          }),
        ),
      );
      preview = null;
      await load();
    });
  const cancel = () => {
    preview = null;
    attempt.refused = null;
  };
  const when = (at: string) => formatLocal(localAt(at, session.zone));
</script>

{#if missing}
  <p class="text-mute p-6" role="status">{missing}</p>
{:else if sheet && shown}
  {@const t = sheet.trip}
  <div class="flex flex-wrap items-start justify-between gap-x-4 px-5 pt-4 pb-3">
    <div>
      <h2 class="text-xl">
        Trip <span class="fig font-bold">{t.number}</span>
        {sheet.drivers.map((d) => d.name).join(' and ')}
      </h2>
      <TripCrew {sheet} may={session.may('loads.cover') && !t.canceledAt} onchange={() => (crewing = !crewing)} />
      <p class="text-mute text-sm">
        {t.canceledAt
          ? 'canceled'
          : t.closedAt
            ? `closed ${when(t.closedAt)} by ${t.closedBy}`
            : t.endedAt
              ? `ended ${when(t.endedAt)}`
              : t.startedAt
                ? `under way since ${when(t.startedAt)}`
                : `planned from ${when(t.from)}`}
        {#if !t.endedAt && !t.canceledAt}· ends {when(shown.ends)}{t.acceptedAt
            ? ' · accepted by the driver'
            : ''}{/if}{t.archivedAt ? ' · archived' : ''}
      </p>
      <TripName trip={t} may={session.may('loads.cover')} onnamed={load} />
    </div>
    <dl class="grid grid-cols-[auto_auto] gap-x-4 text-sm">
      <dt class="text-mute">Miles</dt>
      <dd class="fig text-right">{Math.round(shown.loadedMiles)} loaded, {Math.round(shown.emptyMiles)} empty</dd>
      {#if sheet.revenue}<dt class="text-mute">Revenue</dt>
        <dd class="fig text-right">{figure(sheet.revenue)}</dd>{/if}
      {#if sheet.cost}<dt class="text-mute">Cost</dt>
        <dd class="fig text-right">{figure(sheet.cost)}</dd>{/if}
      {#if sheet.drivers.length === 1 && sheet.drivers[0].pay}<dt class="text-mute">Driver pay</dt>
        <dd class="fig text-right">{figure(sheet.drivers[0].pay)}</dd>{/if}
      {#if sheet.margin}<dt class="text-mute">Margin</dt>
        <dd class="fig text-right font-bold">
          {figure(sheet.margin.amount)}{sheet.margin.percent !== null ? `, ${sheet.margin.percent.toFixed(1)} %` : ''}
        </dd>{/if}
    </dl>
    <TripActions {sheet} onchanged={load} />
  </div>
  {#if crewing}
    <div class="mx-5 mb-3 max-w-2xl">
      <CodriverForm
        trip={t}
        oncancel={() => (crewing = false)}
        ondone={async () => {
          crewing = false;
          await load();
        }}
      />
    </div>
  {/if}
  {#if preview}
    <div class="mx-5 mb-3" role="group" aria-label="New order">
      <Notice
        urgency={preview.refused.length || preview.late.length ? 'now' : 'soon'}
        title={`New order: ${difference(preview.addedMiles, preview.addedTime)}`}
      >
        {#each [...preview.refused, ...preview.late] as said (said)}<p>{said}</p>{/each}
        <div class="mt-2 flex gap-2">
          {#if !preview.refused.length}<Button look="main" small busy={attempt.busy} onclick={save}
              >{preview.late.length ? 'Save anyway' : 'Save order'}</Button
            >{/if}
          <Button small look="quiet" onclick={cancel}>Cancel</Button>
        </div>
      </Notice>
    </div>
  {/if}
  {#if attempt.refused}
    <div class="mx-5 mb-3"><Notice title="Not allowed">{attempt.refused.message}</Notice></div>
  {/if}
  <div class="grid gap-x-2 xl:grid-cols-[minmax(0,1fr)_26rem]">
    <div>
      <Part title="Visits">
        {#snippet aside()}<span class="text-mute text-sm"
            >{shown.trailers.length > 1
              ? trailersOf(shown)
              : `trailer holds ${capacity(shown)}, ${shown.mostLb.toLocaleString('en-US')} lb`}</span
          >{/snippet}
        <Visits
          sheet={shown}
          {may}
          changed={!!preview}
          onorder={look}
          onsave={() => preview && !preview.refused.length && save()}
          oncancel={cancel}
          onchanged={load}
        />
        {#each shown.warnings as said (said)}<p class="text-marigold-word mt-1 text-sm">{said}</p>{/each}
        {#if may && !preview}
          {#if adding}
            <TripStopForm
              trip={sheet.trip}
              has={sheet.trailers}
              away={sheet.trailerAway}
              oncancel={() => (adding = false)}
              ondone={async () => {
                adding = false;
                await load();
              }}
            />
          {:else}<p class="mt-2"><Button small onclick={() => (adding = true)}>Add a stop</Button></p>{/if}
        {/if}
      </Part>
      {#each shown.loading as loading (loading.trailer)}<TripLoading sheet={shown} {loading} />{/each}
      <TripExpenses {sheet} onchanged={load} />
    </div>
    <div>
      <TripLoads {sheet} {may} onchanged={load} />
      <TripRoute {sheet} />
      {#if may}
        <Part title="Loads that fit this trip">
          <TripOffers trip={id} onadded={load} />
        </Part>
      {/if}
      <TripMessages {sheet} />
      <TripRecords trip={id} />
    </div>
  </div>
{:else}
  <p class="text-mute p-6" role="status">Loading trip …</p>
{/if}
