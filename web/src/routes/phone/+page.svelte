<script lang="ts">
  import { api, Refused, sendDocument, take, type Schemas } from '$lib/api/client';
  import { photoOf } from '$lib/phone/image';
  import { documentLabels } from '$lib/loads/labels';
  import { figure } from '$lib/money';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { addDays, formatLocal, zoneName } from '$lib/time/when';
  import SettlementSheet from '$lib/paying/SettlementSheet.svelte';
  import MyExpenses from '$lib/phone/MyExpenses.svelte';
  import MyMessages from '$lib/phone/MyMessages.svelte';
  import Signature from '$lib/phone/Signature.svelte';
  import StopInfo from '$lib/phone/StopInfo.svelte';
  import LoadDetails from '$lib/phone/LoadDetails.svelte';
  import OtherTrips from '$lib/phone/OtherTrips.svelte';
  import PodButton from '$lib/phone/PodButton.svelte';
  import ReportProblem from '$lib/phone/ReportProblem.svelte';
  import { currentOf, ownStop, payOf, visitsOf } from '$lib/phone/trip';
  import TripStopStep from '$lib/phone/TripStopStep.svelte';
  import TripOrder from '$lib/phone/TripOrder.svelte';
  import TransferStep from '$lib/phone/TransferStep.svelte';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';

  let tab = $state<'trip' | 'pay'>('trip');
  let loads = $state<Schemas['MyLoad'][] | null>(null);
  let week = $state<Schemas['SettlementView'] | null>(null);
  let busy = $state('');
  let signed = $state('');
  /** The selected week; the current one when omitted. */
  let monday = $state<string | undefined>();
  let refused = $state('');
  let away = $state(false);

  async function load() {
    try {
      [loads, week] = await Promise.all([
        take(api.GET('/api/mine/loads')),
        take(api.GET('/api/mine/settlement', { params: { query: { monday } } })),
      ]);
      away = false;
    } catch (e) {
      if (e instanceof Refused && e.status === 0) away = true;
      else showError(e);
    }
  }
  $effect(() => {
    void load();
    const source = new EventSource('/api/events/stream');
    source.addEventListener('done', () => void load());
    source.onerror = () => (away = true);
    source.addEventListener('hello', () => (away = false));
    const minute = setInterval(load, 60_000);
    return () => {
      source.close();
      clearInterval(minute);
    };
  });
  const done = (s: Schemas['MyStop']) => !!(s.leftAt || s.deliveredAt);
  const ahead = $derived((loads ?? []).filter((l) => l.state === 'covered' || l.state === 'rolling'));
  const current = $derived(currentOf(ahead));
  /** Stops of the trip's own that the driver does not make. */
  let passed = $state<number[]>([]);
  const own = $derived(current ? ownStop(loads ?? [], current.trip, passed) : null);
  const begins = $derived(current?.begins && !current.begins.takenAt ? current.begins : null);
  const next = $derived(begins ? null : (current?.stops.find((s) => !done(s)) ?? null));
  const transfer = $derived(begins ?? (!next && current?.ends && !current.ends.leftAt ? current.ends : null));
  /** What the driver does next. */
  const task = $derived(own ?? transfer ?? next);
  const toAccept = $derived(!!current && !current.acceptedAt && current.state === 'covered');
  const later = $derived(ahead.filter((l) => l !== current && l.trip !== current?.trip));
  const behind = $derived((loads ?? []).filter((l) => !ahead.includes(l)).reverse());
  const needsPod = $derived(behind.filter((l) => l.wanted.length > 0));

  async function say(word: 'arrived' | 'left' | 'delivered') {
    if (!current || !next) return;
    busy = word;
    refused = '';
    try {
      const answer = await take(
        api.POST('/api/mine/loads/{id}/stops/{stopId}', {
          params: { path: { id: current.id, stopId: next.id } },
          body: { event: word, at: null, receivedBy: word === 'delivered' ? signed || null : null },
          headers: { 'Lark-Via': 'phone' },
        }),
      );
      showDone(`${answer.summary}.`);
      signed = '';
    } catch (e) {
      if (e instanceof Refused) refused = e.message;
      else showError(e);
    } finally {
      busy = '';
      await load();
    }
  }
  function turn(to: string) {
    monday = to > session.today || addDays(to, 7) > session.today ? undefined : to;
    void load();
  }
  async function accept() {
    busy = 'accept';
    try {
      await take(api.POST('/api/mine/loads/{id}/accept', { params: { path: { id: current!.id } } }));
      showDone(`You accepted ${current!.number}.`);
    } catch (e) {
      showError(e);
    } finally {
      busy = '';
      await load();
    }
  }
  async function pod(l: Schemas['MyLoad'], file: File | undefined, kind = l.wanted[0] ?? 'pod') {
    if (!file) return;
    busy = `pod${l.id}`;
    refused = '';
    try {
      const { picture, name } = await photoOf(file);
      await sendDocument(l.id, kind, picture, name, true);
      showDone(`${documentLabels[kind]} for ${l.number} received.`);
    } catch (e) {
      if (e instanceof Refused) refused = e.message;
      else showError(e);
    } finally {
      busy = '';
      await load();
    }
  }
</script>

<svelte:head><title>My trip · Steady Lark</title></svelte:head>

{#snippet accepting()}
  <Button look="main" class="mt-3 h-16! w-full text-lg" busy={busy === 'accept'} onclick={accept}
    >Accept trip, {figure(payOf(ahead, current!.trip))}</Button
  >
{/snippet}

{#snippet trip(l: Schemas['MyLoad'])}
  <p class="text-mute text-sm">
    Trip {l.trip} · load <span class="fig">{l.number}</span> · truck {l.truck}, trailer {l.trailer}
    {#if l.with}· with {l.with}{#if l.withPhone}
        <a class="text-lark underline" href="tel:{l.withPhone}">{l.withPhone}</a>{/if}{/if}
  </p>
{/snippet}

<div class="mx-auto flex min-h-dvh max-w-lg flex-col">
  <header class="border-line flex items-center justify-between border-b px-4 py-3">
    <div>
      <a class="font-bold hover:underline" href="/phone/account" title="Preferences and password"
        >{session.current?.name}</a
      >
      <p class="fig text-mute text-sm">{formatLocal(session.wallClock())} {zoneName(session.zone)}</p>
    </div>
    <a class="text-mute p-2 text-sm" href="/phone/account">Account</a>
    <button class="text-mute p-2 text-sm" onclick={() => session.signOut()}>Sign out</button>
  </header>
  {#if away}<p class="bg-marigold-tint text-marigold-word px-4 py-2 text-sm" role="status">
      No signal. This information may be out of date; retrying.
    </p>{/if}
  <main class="flex-1 p-4 pb-24">
    {#if tab === 'trip'}
      {#if loads === null}<p class="text-mute" role="status">Loading …</p>
      {:else}
        {#if current && task}
          {@render trip(current)}
          {#if own}
            <TripStopStep
              stop={own}
              ondone={load}
              onpassed={() => passed.push(own.id)}
              before={toAccept ? accepting : undefined}
            />
          {:else if transfer}
            <TransferStep
              load={current}
              t={transfer}
              event={begins ? 'taken' : 'left'}
              ondone={load}
              before={toAccept ? accepting : undefined}
            />
          {:else if next}
            <StopInfo load={current} stop={next} onchanged={load} />
            {#if refused}<p class="text-ember-word mt-3" role="alert">{refused}</p>{/if}
            <div class="mt-5 flex flex-col gap-3">
              {#if toAccept}
                {@render accepting()}
              {:else if !next.arrivedAt}
                <Button look="main" class="h-16! text-lg" busy={busy === 'arrived'} onclick={() => say('arrived')}
                  >Arrived</Button
                >
              {:else if next.kind === 'pickup'}
                <Button look="main" class="h-16! text-lg" busy={busy === 'left'} onclick={() => say('left')}
                  >Loaded, departing</Button
                >
              {:else}
                {#if !current.documents.some((p) => p.kind === 'pod')}<Signature
                    loadId={current.id}
                    bind:name={signed}
                    ondone={load}
                  />{:else}<TextField label="Signed by" bind:value={signed} maxlength={80} />{/if}
                <Button look="main" class="h-16! text-lg" busy={busy === 'delivered'} onclick={() => say('delivered')}
                  >Delivered{signed ? `, signed ${signed}` : ''}</Button
                >
              {/if}
              {#if next.kind === 'delivery' && next.arrivedAt}<PodButton
                  load={current}
                  busy={busy === `pod${current.id}`}
                  onfile={(f) => void pod(current, f)}
                />{/if}
            </div>
          {/if}
          <MyMessages tripId={current.tripId} trip={current.trip} changed={loads} />
          <TripOrder visits={visitsOf(loads, current.trip)} />
          <LoadDetails load={current} {done} />
          <ReportProblem load={current} zone={task.zone} ondone={load} />
          <MyExpenses load={current} />
        {:else}
          <h1 class="text-xl font-bold">No trip assigned</h1>
          <p class="text-mute mt-1">Trips appear here when dispatch assigns one.</p>
        {/if}
        {#each needsPod as l (l.id)}
          <section class="border-line mt-6 border-t pt-3">
            <p class="mb-2">
              Load <span class="fig font-bold">{l.number}</span> is delivered to {l.stops.at(-1)?.place}. Missing: {l.wanted
                .map((k) => documentLabels[k])
                .join(', ')}.
            </p>
            <PodButton load={l} busy={busy === `pod${l.id}`} onfile={(f) => void pod(l, f)} />
          </section>
        {/each}
        <OtherTrips {later} {behind} />
      {/if}
    {:else if week}
      <div class="flex justify-between pt-2">
        <Button small look="quiet" onclick={() => turn(addDays(week!.monday, -7))}>‹ Previous week</Button>
        {#if monday}<Button small look="quiet" onclick={() => turn(addDays(week!.monday, 7))}>Next week ›</Button>{/if}
      </div>
      <div class="-mx-4"><SettlementSheet {week} own onchanged={load} /></div>
    {/if}
  </main>
  <nav
    class="border-line bg-panel fixed inset-x-0 bottom-0 mx-auto grid max-w-lg grid-cols-2 border-t"
    aria-label="My pages"
  >
    <button
      class="h-16 {tab === 'trip' ? 'text-lark font-bold' : ''}"
      aria-current={tab === 'trip'}
      onclick={() => (tab = 'trip')}>My trip</button
    >
    <button
      class="h-16 {tab === 'pay' ? 'text-lark font-bold' : ''}"
      aria-current={tab === 'pay'}
      onclick={() => (tab = 'pay')}>My pay <span class="fig">{figure(week?.net)}</span></button
    >
  </nav>
</div>
