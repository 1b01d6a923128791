<script lang="ts">
  import { api, ifMatch, Refused, take, type Schemas } from '$lib/api/client';
  import { onChange } from '$lib/state/change.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { clockAt, formatLocal, formatTime, instantOf, localAt, zoneName, type Local } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';
  import WhenField from '$ui/WhenField.svelte';
  import { happened, isDone, windowOf } from '../labels';
  import TransferItem from './TransferItem.svelte';

  /** Stops with their appointments and ETAs; what happens at the next one is recorded here. */
  interface Props {
    view: Schemas['LoadSheetView'];
    run: (name: string, act: () => Promise<unknown>) => Promise<void>;
    /** After something was recorded or refused. */
    onchanged: () => Promise<void>;
  }
  let { view, run, onchanged }: Props = $props();
  type Stop = Schemas['StopRow'];
  type Word = 'arrived' | 'left' | 'delivered';
  const l = $derived(view.sheet.load);
  /** The stop that is reached next, unless the freight changes trucks before. */
  const next = $derived.by(() => {
    const index = l.stops.findIndex((s) => !isDone(s));
    return index >= 0 && !l.transfers.some((t) => t.afterStops <= index && !t.takenAt) ? l.stops[index] : undefined;
  });
  const carried = $derived(l.state === 'covered' || l.state === 'rolling');
  const mayRecord = $derived(session.may('loads.roll') && carried);
  const mayUndo = $derived(session.may('loads.roll') && (carried || l.state === 'delivered'));
  const visit = (stopId: number) => view.visits.find((v) => v.stopId === stopId);
  const isLast = (stop: Stop) =>
    !!stop.arrivedAt &&
    !l.stops.some((s) => s.seq > stop.seq && s.arrivedAt) &&
    !l.transfers.some((t) => t.afterStops >= stop.seq && t.leftAt);

  let busy = $state<Word | ''>('');
  /** The stop whose time is entered. */
  let timing = $state<number | null>(null);
  let at = $state<Local | null>(null);
  let signed = $state('');
  let refused = $state<Refused | null>(null);
  onChange(
    () => l.id,
    () => {
      timing = null;
      at = null;
      refused = null;
    },
  );

  async function record(stop: Stop, word: Word) {
    refused = null;
    busy = word;
    const path = { id: l.id, stopId: stop.id };
    try {
      const done = await take(
        api.POST('/api/loads/{id}/stops/{stopId}', {
          params: { path },
          body: {
            event: word,
            at: at ? instantOf(at, stop.zone ?? session.zone) : null,
            receivedBy: word === 'arrived' ? null : signed || null,
          },
          headers: ifMatch(l.version),
        }),
      );
      showDone(`${done.summary}.`, () => take(api.POST('/api/loads/{id}/stops/{stopId}/undo', { params: { path } })));
      at = null;
      signed = '';
      timing = null;
    } catch (e) {
      if (e instanceof Refused) refused = e;
      else showError(e);
    } finally {
      busy = '';
      await onchanged();
    }
  }
  const undo = (stop: Stop) =>
    run('undo', () =>
      take(
        api.POST('/api/loads/{id}/stops/{stopId}/undo', {
          params: { path: { id: l.id, stopId: stop.id } },
          headers: ifMatch(l.version),
        }),
      ),
    );
  const late = 'text-ember-word font-bold';
  const outlooks: Record<string, string> = { late, no_update: late, tight: 'text-marigold-word font-bold' };
</script>

{#snippet line(stop: Stop, i: number)}
  {@const done = isDone(stop)}
  <svg width="16" class="shrink-0 self-stretch overflow-visible" height="44" aria-hidden="true">
    {#if i < l.stops.length - 1}<line
        x1="8"
        x2="8"
        y1="14"
        y2="60"
        stroke="var(--ink)"
        stroke-width={done ? 3 : 1.6}
        stroke-dasharray={done || l.who ? undefined : '2.5 3.5'}
      />{/if}
    <circle cx="8" cy="10" r="5" fill={done ? 'var(--ink)' : 'var(--panel)'} stroke="var(--ink)" stroke-width="1.8" />
  </svg>
{/snippet}

{#snippet transfer(t: Schemas['TransferRow'])}
  <li class="relative flex gap-3 pb-3">
    <svg width="16" class="shrink-0 self-stretch overflow-visible" height="44" aria-hidden="true">
      <line
        x1="8"
        x2="8"
        y1="14"
        y2="60"
        stroke="var(--ink)"
        stroke-width={t.takenAt ? 3 : 1.6}
        stroke-dasharray={t.nextWho ? undefined : '2.5 3.5'}
      />
      <rect
        x="3.5"
        y="5.5"
        width="9"
        height="9"
        fill={t.takenAt ? 'var(--ink)' : 'var(--panel)'}
        stroke="var(--ink)"
        stroke-width="1.8"
      />
    </svg>
    <TransferItem {view} {t} {onchanged} />
  </li>
{/snippet}

{#snippet recording(stop: Stop)}
  <div class="mt-1.5 flex flex-wrap gap-2">
    {#if !stop.arrivedAt}<Button small look="main" busy={busy === 'arrived'} onclick={() => record(stop, 'arrived')}
        >At stop{at ? ` ${formatTime(at)}` : ' now'}</Button
      >{/if}
    <Button
      small
      look={stop.arrivedAt ? 'main' : 'plain'}
      busy={busy === 'left' || busy === 'delivered'}
      onclick={() => record(stop, stop.kind === 'pickup' ? 'left' : 'delivered')}
      >{stop.kind === 'delivery' ? 'Delivered' : l.isMove && !l.freight ? 'Left' : 'Left loaded'}</Button
    >
    <Button small look="quiet" onclick={() => (timing = timing === stop.id ? null : stop.id)}
      >{timing === stop.id ? 'Now' : 'Different time'}</Button
    >
  </div>
  {#if timing === stop.id}
    <div class="mt-2 grid max-w-md grid-cols-2 gap-2">
      <WhenField
        label="Time"
        bind:value={at}
        zone={stop.zone}
        like={session.wallClock(stop.zone ?? session.zone)}
        problem={refused?.at('at')}
      />
      {#if stop.kind === 'delivery'}<TextField label="Signed by" bind:value={signed} maxlength={80} />{/if}
    </div>
  {/if}
  {#if refused && !(timing === stop.id && refused.at('at'))}<p class="text-ember-word mt-1 text-sm" role="alert">
      {refused.message}
    </p>{/if}
{/snippet}

<Part title="Stops">
  <ol>
    {#each l.transfers.filter((t) => t.afterStops === 0) as t (t.id)}{@render transfer(t)}{/each}
    {#each l.stops as stop, i (stop.id)}
      {@const v = visit(stop.id)}
      <li class="relative flex gap-3 pb-3">
        {@render line(stop, i)}
        <div class="min-w-0 flex-1">
          <div class="flex items-baseline justify-between gap-2">
            <span class="min-w-0 font-bold">{stop.place ?? 'No place yet'}</span>
            <span class="fig shrink-0 text-sm">{windowOf(stop)}</span>
          </div>
          <div class="text-mute flex items-baseline justify-between gap-2 text-sm">
            <span class="min-w-0"
              >{stop.kind}{stop.town ? `, ${stop.town} ${stop.region}` : ''}{stop.zone && stop.zone !== session.zone
                ? ` · ${zoneName(stop.zone)}`
                : ''}</span
            >
            {#if stop.arrivedAt}
              <span class="fig shrink-0">{happened(stop)}</span>
            {:else if v && l.who && carried}
              <span class="fig shrink-0 {outlooks[v.outlook] ?? ''}" title="Estimated arrival"
                >≈ {formatLocal(localAt(v.arrives, stop.zone ?? session.zone)).slice(0, 3)}
                {clockAt(v.arrives, stop.zone ?? session.zone)}</span
              >
            {/if}
          </div>
          {#if stop.refusedAt}<p class="text-ember-word text-sm font-bold">freight refused</p>{/if}
          {#if stop.receivedBy}<p class="text-mute text-sm">signed {stop.receivedBy}</p>{/if}
          {#if stop.note}<p class="text-sm">{stop.note}</p>{/if}
          {#if stop.bookingNote}<p class="text-marigold-word text-sm">{stop.bookingNote}</p>{/if}
          {#if mayRecord && stop.id === next?.id}{@render recording(stop)}{/if}
          {#if mayUndo && isLast(stop)}
            <button class="text-lark mt-1 text-sm underline-offset-2 hover:underline" onclick={() => undo(stop)}
              >Undo the last update here</button
            >
          {/if}
        </div>
      </li>
      {#each l.transfers.filter((t) => t.afterStops === i + 1) as t (t.id)}{@render transfer(t)}{/each}
    {/each}
  </ol>
</Part>
