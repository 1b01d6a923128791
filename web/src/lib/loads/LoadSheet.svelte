<script lang="ts">
  import { goto } from '$app/navigation';
  import { api, ifMatch, moneyKey, Refused, take, type Schemas } from '$lib/api/client';
  import { said } from '$lib/money';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import {
    clockAt,
    instantOf,
    localAt,
    formatLocal,
    zoneName,
    type Local,
    formatShort,
    formatTime,
  } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Notice from '$ui/Notice.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';
  import WhenField from '$ui/WhenField.svelte';
  import Assignment from './sheet/Assignment.svelte';
  import Costs from './sheet/Costs.svelte';
  import ReturnToDispatch from '$lib/billing/ReturnToDispatch.svelte';
  import Documents from './sheet/Documents.svelte';
  import Reports from './sheet/Reports.svelte';
  import Route from './sheet/Route.svelte';
  import Overview from './sheet/Overview.svelte';
  import { isPlain } from '$ui/keys';
  import { equipmentLabels, happened, holdLabels, lane, windowOf } from './labels';

  interface Props {
    id: number;
    /** Content between header and stops: the cover panel. */
    top?: import('svelte').Snippet<[Schemas['LoadSheetView']]>;
    onchanged?: () => void;
    whole?: boolean;
  }
  let { id, top, onchanged, whole = false }: Props = $props();
  type View = Schemas['LoadSheetView'];
  let view = $state<View | null>(null);
  let problem = $state('');
  let busy = $state('');
  let wordAt = $state<number | null>(null);
  let at = $state<Local | null>(null);
  let signed = $state('');
  let refusedAt = $state<Refused | null>(null);
  let calling = $state(false);
  let why = $state('');
  let passing = $state('');
  let tracking = $state('');

  async function load() {
    try {
      view = await take(api.GET('/api/loads/{id}', { params: { path: { id } } }));
      problem = '';
    } catch (e) {
      problem = e instanceof Refused ? e.message : 'This load could not be loaded.';
    }
  }
  $effect(() => {
    void id;
    view = null;
    wordAt = null;
    calling = false;
    tracking = '';
    void load();
    return live.follow(load, (e) => e.loadId === id);
  });

  const l = $derived(view?.sheet.load);
  const next = $derived(l?.stops.find((s) => !(s.leftAt || s.deliveredAt || s.refusedAt)));
  const visit = (stopId: number) => view?.visits.find((v) => v.stopId === stopId);
  const rolls = $derived(session.may('loads.roll') && l && (l.state === 'covered' || l.state === 'rolling'));

  async function run(name: string, act: () => Promise<unknown>) {
    busy = name;
    try {
      await act();
      onchanged?.();
    } catch (e) {
      if (e instanceof Refused && e.status === 409) {
        showDone('Someone else changed this load. Showing the latest version.');
      } else showError(e);
    } finally {
      busy = '';
      await load();
    }
  }

  async function changed() {
    await load();
    onchanged?.();
  }
  const revoke = () =>
    run('revoke', async () => {
      await take(api.POST('/api/loads/{id}/track/revoke', { params: { path: { id } } }));
      tracking = '';
      showDone(`Tracking links for ${l!.number} revoked.`);
    });
  async function follow() {
    await run('track', async () => {
      const link = await take(api.POST('/api/loads/{id}/track', { params: { path: { id } } }));
      await navigator.clipboard?.writeText(link.url).catch(() => {});
      tracking = link.url;
    });
  }
  async function say(stop: Schemas['StopRow'], word: 'arrived' | 'left' | 'delivered') {
    if (!l) return;
    refusedAt = null;
    busy = word;
    try {
      const done = await take(
        api.POST('/api/loads/{id}/stops/{stopId}', {
          params: { path: { id, stopId: stop.id } },
          body: {
            event: word,
            at: at ? instantOf(at, stop.zone ?? session.zone) : null,
            receivedBy: word === 'arrived' ? null : signed || null,
          },
          headers: ifMatch(l.version),
        }),
      );
      showDone(`${done.summary}.`, () =>
        take(api.POST('/api/loads/{id}/stops/{stopId}/undo', { params: { path: { id, stopId: stop.id } } })),
      );
      at = null;
      signed = '';
      wordAt = null;
      onchanged?.();
    } catch (e) {
      if (e instanceof Refused) refusedAt = e;
      else showError(e);
    } finally {
      busy = '';
      await load();
    }
  }
  /** c: go to Cover. */
  function key(e: KeyboardEvent) {
    if (
      e.key !== 'c' ||
      location.pathname.startsWith('/cover') ||
      l?.state !== 'booked' ||
      !session.may('loads.cover') ||
      !isPlain(e)
    )
      return;
    e.preventDefault();
    void goto(`/cover?load=${id}`);
  }
  async function takeBack() {
    await run('back', async () => {
      const done = await take(
        api.POST('/api/loads/{id}/unassign', { params: { path: { id } }, headers: ifMatch(l!.version) }),
      );
      showDone(`${done.number} unassigned from ${done.who}.`);
    });
  }
  async function pass(kind: Schemas['HoldKind']) {
    await run('pass', async () => {
      await take(
        api.POST('/api/loads/{id}/override-hold', {
          params: { path: { id } },
          body: { kind, why: passing },
          headers: ifMatch(l!.version),
        }),
      );
      showDone(`Hold on ${l!.number} overridden.`);
      passing = '';
    });
  }
  async function cancel() {
    await run('cancel', async () => {
      await take(
        api.POST('/api/loads/{id}/cancel', { params: { path: { id } }, body: { why }, headers: ifMatch(l!.version) }),
      );
      showDone(`${l!.number} canceled.`);
      calling = false;
    });
  }
  async function bill() {
    await run('bill', async () => {
      const invoice = await take(
        api.POST('/api/invoices', {
          body: { loadIds: [id], termsDays: null, mailTo: null },
          headers: moneyKey(),
        }),
      );
      showDone(`Invoice ${invoice.number} for ${said(invoice.total)} sent to ${invoice.mailedTo}.`, () =>
        take(api.POST('/api/invoices/{id}/void', { params: { path: { id: invoice.id } }, headers: moneyKey() })),
      );
    });
  }
  const stateWord = (s: string) => s.replace('_', ' ');
</script>

<svelte:window onkeydown={key} />
{#if problem}
  <p class="p-5" role="alert">{problem}</p>
{:else if !view || !l}
  <p class="text-mute p-5" role="status">Loading …</p>
{:else}
  <div class="px-5 pt-4 pb-3">
    <div class="flex items-baseline gap-2 pr-8">
      <h2 class="min-w-0 text-lg">
        <span class="fig font-bold">{l.number}</span>
        {l.customer ?? 'No customer yet'}
      </h2>
      <span class="text-mute text-sm">{stateWord(l.state)}</span>
      {#if !whole}<a class="text-lark ml-auto shrink-0 text-sm underline-offset-2 hover:underline" href="/load/{l.id}"
          >Full page</a
        >{/if}
    </div>
    <p class="text-mute text-sm">
      {lane(l)}{l.equipment ? ` · ${equipmentLabels[l.equipment]}` : ''}{l.miles ? ` · ${l.miles} mi` : ''}
    </p>
    <Overview {view} />
  </div>

  <div class="flex flex-col gap-2 px-5 pb-3 empty:hidden">
    {#if view.seen}<p class="text-sm">
        Last position <b>{view.seen.where}</b>
        <span class="text-mute">{formatLocal(localAt(view.seen.at, session.zone))}</span>
      </p>{/if}
    {#if view.trouble.length > 0}
      <Notice urgency={view.urgency === 'now' ? 'now' : 'soon'} title={view.status}>
        {#each view.trouble as line (line)}<p>{line}</p>{/each}
      </Notice>
    {/if}
    {#if l.state === 'delivered' && view.missing.length > 0}
      <Notice urgency="soon" title="Not ready to bill"
        >{#each view.missing as line (line)}<p>{line}</p>{/each}</Notice
      >
    {/if}
    {#each view.sheet.holds.filter((h) => !h.releasedAt) as hold (hold.id)}
      <Notice urgency="soon" title="On hold: {holdLabels[hold.kind].toLowerCase()}">
        <p>{hold.reason}</p>
        {#if hold.kind === 'billing'}
          {#if session.may('loads.roll')}<div class="mt-2">
              <ReturnToDispatch loadId={l.id} right onchanged={load} />
            </div>{/if}
        {:else if session.may('holds.override')}
          <div class="mt-2 flex items-end gap-2">
            <TextField class="flex-1" label="Override reason" bind:value={passing} maxlength={400} />
            <Button busy={busy === 'pass'} disabled={!passing.trim()} onclick={() => pass(hold.kind)}
              >Override hold</Button
            >
          </div>
        {:else}<p>The owner can override it.</p>{/if}
      </Notice>
    {/each}
    {#if l.state === 'cancelled'}
      <Notice urgency="soon" title="Canceled"><p>{view.sheet.cancelledWhy}</p></Notice>
    {/if}
    {#if l.state === 'delivered' && view.missing.length === 0 && session.may('billing.invoice')}
      <div>
        <Button look="main" busy={busy === 'bill'} onclick={bill}>Bill {said(l.revenue)} to {l.customer}</Button>
      </div>
    {/if}
  </div>

  {@render top?.(view)}

  <Part title="Stops">
    <ol>
      {#each l.stops as stop, i (stop.id)}
        {@const v = visit(stop.id)}
        {@const done = !!(stop.leftAt || stop.deliveredAt || stop.refusedAt)}
        <li class="relative flex gap-3 pb-3">
          <svg width="16" class="shrink-0 self-stretch overflow-visible" height="44" aria-hidden="true">
            {#if i < l.stops.length - 1}<line
                x1="8"
                x2="8"
                y1="14"
                y2="60"
                stroke="var(--ink)"
                stroke-width={done ? 3 : 1.6}
                stroke-dasharray={l.who ? undefined : '2.5 3.5'}
              />{/if}
            <circle
              cx="8"
              cy="10"
              r="5"
              fill={done ? 'var(--ink)' : 'var(--panel)'}
              stroke="var(--ink)"
              stroke-width="1.8"
            />
          </svg>
          <div class="min-w-0 flex-1">
            <div class="flex items-baseline justify-between gap-2">
              <span class="truncate font-bold">{stop.place ?? 'No place yet'}</span>
              <span class="fig shrink-0 text-sm">{windowOf(stop)}</span>
            </div>
            <div class="text-mute flex items-baseline justify-between gap-2 text-sm">
              <span class="truncate"
                >{stop.kind}{stop.town ? `, ${stop.town} ${stop.region}` : ''}{stop.zone && stop.zone !== session.zone
                  ? ` · ${zoneName(stop.zone)}`
                  : ''}</span
              >
              {#if stop.arrivedAt}
                <span class="fig shrink-0">{happened(stop)}</span>
              {:else if v && l.who && (l.state === 'covered' || l.state === 'rolling')}
                <span
                  class="fig shrink-0 {v.outlook === 'late' || v.outlook === 'no_update'
                    ? 'text-ember-word font-bold'
                    : v.outlook === 'tight'
                      ? 'text-marigold-word font-bold'
                      : ''}"
                  title="Estimated arrival"
                  >≈ {formatLocal(localAt(v.arrives, stop.zone ?? session.zone)).slice(0, 3)}
                  {clockAt(v.arrives, stop.zone ?? session.zone)}</span
                >
              {/if}
            </div>
            {#if stop.refusedAt}<p class="text-ember-word text-sm font-bold">freight refused</p>{/if}
            {#if stop.receivedBy}<p class="text-mute text-sm">signed {stop.receivedBy}</p>{/if}
            {#if stop.note}<p class="text-sm">{stop.note}</p>{/if}
            {#if stop.bookingNote}<p class="text-marigold-word text-sm">{stop.bookingNote}</p>{/if}
            {#if rolls && stop.id === next?.id}
              <div class="mt-1.5 flex flex-wrap gap-2">
                {#if !stop.arrivedAt}<Button
                    small
                    look="main"
                    busy={busy === 'arrived'}
                    onclick={() => say(stop, 'arrived')}>At stop{at ? ` ${formatTime(at)}` : ' now'}</Button
                  >{/if}
                {#if stop.kind === 'pickup'}<Button
                    small
                    look={stop.arrivedAt ? 'main' : 'plain'}
                    busy={busy === 'left'}
                    onclick={() => say(stop, 'left')}>Left loaded</Button
                  >{:else}<Button
                    small
                    look={stop.arrivedAt ? 'main' : 'plain'}
                    busy={busy === 'delivered'}
                    onclick={() => say(stop, 'delivered')}>Delivered</Button
                  >{/if}
                <Button small look="quiet" onclick={() => (wordAt = wordAt === stop.id ? null : stop.id)}
                  >{wordAt === stop.id ? 'Now' : 'Different time'}</Button
                >
              </div>
              {#if wordAt === stop.id}
                <div class="mt-2 grid grid-cols-2 gap-2">
                  <WhenField
                    label="Time"
                    bind:value={at}
                    zone={stop.zone}
                    like={session.wallClock(stop.zone ?? session.zone)}
                    problem={refusedAt?.at('at')}
                  />
                  {#if stop.kind === 'delivery'}<TextField label="Signed by" bind:value={signed} maxlength={80} />{/if}
                </div>
              {/if}
              {#if refusedAt && !(wordAt === stop.id && refusedAt.at('at'))}<p
                  class="text-ember-word mt-1 text-sm"
                  role="alert"
                >
                  {refusedAt.message}
                </p>{/if}
            {/if}
            {#if (l.state === 'covered' || l.state === 'rolling' || l.state === 'delivered') && session.may('loads.roll') && stop.arrivedAt && !l.stops.some((s) => s.seq > stop.seq && s.arrivedAt)}
              <button
                class="text-lark mt-1 text-sm underline-offset-2 hover:underline"
                onclick={() =>
                  run('undo', () =>
                    take(
                      api.POST('/api/loads/{id}/stops/{stopId}/undo', {
                        params: { path: { id, stopId: stop.id } },
                        headers: ifMatch(l.version),
                      }),
                    ),
                  )}>Undo the last update here</button
              >
            {/if}
          </div>
        </li>
      {/each}
    </ol>
  </Part>

  {#if l.stops.length > 1 && l.stops.every((s) => s.latitude !== null)}<Route {view} onchanged={changed} />{/if}
  <Reports {view} onchanged={changed} />
  <Assignment {view} {takeBack} busy={busy === 'back'} onchanged={changed} />

  <Costs {view} />

  <Documents {view} {run} busy={busy === 'paper'} />

  {#if view.sheet.office}<Part title="Office"><p class="text-sm">{view.sheet.office}</p></Part>{/if}
  {#if view.sheet.driverInstructions}
    <Part title="Driver instructions"><p class="text-sm whitespace-pre-wrap">{view.sheet.driverInstructions}</p></Part>
  {/if}
  {#if view.sheet.carrierInstructions}
    <Part title="Carrier instructions"><p class="text-sm whitespace-pre-wrap">{view.sheet.carrierInstructions}</p></Part
    >
  {/if}

  <Part title="History">
    {#snippet aside()}
      <span class="flex gap-1">
        {#if session.may('loads.roll') && l.state !== 'draft' && l.state !== 'cancelled'}
          <Button small look="quiet" onclick={follow}>Tracking link</Button>
        {/if}
        {#if session.may('loads.book') && (l.state === 'draft' || l.state === 'booked')}
          <Button small look="quiet" onclick={() => goto(`/book?edit=${l.id}`)}>Edit</Button>
          <Button small look="quiet" onclick={() => (calling = !calling)}>Cancel load</Button>
        {:else if session.may('loads.book') && (l.state === 'covered' || l.state === 'rolling' || l.state === 'delivered')}
          <Button small look="quiet" onclick={() => goto(`/book?edit=${l.id}`)}>Edit</Button>
        {/if}
        {#if session.may('loads.book') && l.state !== 'draft'}
          <Button small look="quiet" onclick={() => goto(`/book?copy=${l.id}`)}>Copy</Button>
        {/if}
      </span>
    {/snippet}
    {#if tracking}
      <p class="mb-2 text-sm">
        {l.customer} can track {l.number} here (copied to the clipboard):
        <a class="text-lark font-bold break-all hover:underline" href={tracking} target="_blank" rel="noopener"
          >{tracking}</a
        >
        <button class="text-lark ml-2 hover:underline" onclick={revoke}>Revoke tracking links</button>
      </p>
    {/if}
    {#if calling}
      <div class="mb-2 flex items-end gap-2">
        <TextField label="Reason for canceling" bind:value={why} required class="flex-1" />
        <Button busy={busy === 'cancel'} disabled={!why.trim()} onclick={cancel}>Cancel load {l.number}</Button>
      </div>
    {/if}
    <ul class="flex flex-col gap-1 text-sm">
      {#each view.events as event (event.id)}
        <li class="flex gap-2">
          <span class="fig text-mute w-24 shrink-0">{formatShort(localAt(event.at, session.zone))}</span>
          <span class="min-w-0 flex-1"
            >{event.summary}<span class="text-mute">
              · {event.who ?? (event.via === 'outside' ? 'external' : 'automatic')}{event.via === 'page' ||
              event.via === 'outside' ||
              event.via === 'system'
                ? ''
                : `, ${event.via === 'api' ? 'API' : event.via}`}</span
            ></span
          >
        </li>
      {/each}
    </ul>
    {#if view.emails.some((m) => m.lastError)}
      {#each view.emails.filter((m) => m.lastError && !m.sentAt) as mail (mail.id)}
        <p class="text-ember-word mt-1 text-sm">Email to {mail.to} failed: {mail.lastError}. It will be retried.</p>
      {/each}
    {/if}
  </Part>
{/if}
