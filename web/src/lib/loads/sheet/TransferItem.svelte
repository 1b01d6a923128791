<script lang="ts">
  import { api, ifMatch, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { clockAt, formatLocal, hours, instantOf, localAt, zoneName, type Local } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import WhenField from '$ui/WhenField.svelte';
  import { transferDone, transferLabels } from '../labels';
  import SplitForm from './SplitForm.svelte';

  /** A transfer between two stops: when it is planned, what happened there, and what can be recorded. */
  interface Props {
    view: Schemas['LoadSheetView'];
    t: Schemas['TransferRow'];
    onchanged: () => Promise<void>;
  }
  let { view, t, onchanged }: Props = $props();
  const l = $derived(view.sheet.load);
  const can = $derived(view.transfers.find((v) => v.transferId === t.id));
  const attempt = new Attempt();
  let at = $state<Local | null>(null);
  let timing = $state(false);
  let moving = $state(false);
  const path = $derived({ id: l.id, transferId: t.id });
  const done = (act: () => Promise<Schemas['SplitAnswer']>, undo = false) =>
    // Nothing else is done with the load before its new version is read.
    attempt.run(async () => {
      try {
        const answer = await act();
        showDone(
          `${answer.summary}.`,
          undo ? () => take(api.POST('/api/loads/{id}/transfers/{transferId}/undo', { params: { path } })) : undefined,
        );
        at = null;
        timing = false;
      } finally {
        await onchanged();
      }
    });
  const record = (event: Schemas['TransferEvent']) =>
    done(
      () =>
        take(
          api.POST('/api/loads/{id}/transfers/{transferId}', {
            params: { path },
            body: { event, at: at ? instantOf(at, t.zone) : null },
            headers: ifMatch(l.version),
          }),
        ),
      true,
    );
  const undo = () =>
    done(() =>
      take(api.POST('/api/loads/{id}/transfers/{transferId}/undo', { params: { path }, headers: ifMatch(l.version) })),
    );
  const join = () =>
    done(() =>
      take(api.POST('/api/loads/{id}/transfers/{transferId}/join', { params: { path }, headers: ifMatch(l.version) })),
    );
</script>

<div class="min-w-0 flex-1">
  <div class="flex items-baseline justify-between gap-2">
    <span class="min-w-0 font-bold">{t.place}</span>
    <span class="fig shrink-0 text-sm">{t.plannedAt ? formatLocal(localAt(t.plannedAt, t.zone)) : 'handed over'}</span>
  </div>
  <div class="text-mute flex items-baseline justify-between gap-2 text-sm">
    <span class="min-w-0"
      >{t.plannedAt ? transferLabels[t.method].toLowerCase() : 'transfer'}, {t.town}
      {t.region} · {t.nextWho ? `then ${t.nextWho}` : 'next leg not covered'}{t.zone !== session.zone
        ? ` · ${zoneName(t.zone)}`
        : ''}</span
    >
    {#if t.leftAt}
      <span class="fig shrink-0"
        >{clockAt(t.leftAt, t.zone)} –{t.takenAt && t.takenAt !== t.leftAt
          ? ` ${clockAt(t.takenAt, t.zone)}`
          : ''}</span
      >
    {:else if can?.arrives && l.who}
      <span class="fig shrink-0 {can.late ? 'text-ember-word font-bold' : ''}" title="Estimated arrival"
        >≈ {formatLocal(localAt(can.arrives, t.zone)).slice(0, 3)}
        {clockAt(can.arrives, t.zone)}{can.late ? `, ${hours(can.late)} late` : ''}</span
      >
    {/if}
  </div>
  {#if t.leftAt && !t.takenAt}<p class="text-marigold-word text-sm font-bold">
      {t.method === 'drop' ? 'loaded trailer stands here' : 'freight waits here'} since {formatLocal(
        localAt(t.leftAt, t.zone),
      )}
    </p>{/if}
  {#if session.may('loads.roll') && (can?.canLeave || can?.canTake)}
    <div class="mt-1.5 flex flex-wrap gap-2">
      {#if can.canLeave}<Button
          small
          look={t.method === 'drop' || !can.canTake ? 'main' : 'plain'}
          busy={attempt.busy}
          onclick={() => void record('left')}>{transferDone.left[t.method]}</Button
        >{/if}
      {#if can.canTake}<Button
          small
          look={t.method === 'drop' && can.canLeave ? 'plain' : 'main'}
          busy={attempt.busy}
          onclick={() => void record('taken')}>{transferDone.taken[t.method]}</Button
        >{/if}
      <Button small look="quiet" onclick={() => (timing = !timing)}>{timing ? 'Now' : 'Different time'}</Button>
    </div>
    {#if timing}
      <div class="mt-2 max-w-56">
        <WhenField
          label="Time"
          bind:value={at}
          zone={t.zone}
          like={session.wallClock(t.zone)}
          problem={attempt.at('at')}
        />
      </div>
    {/if}
  {/if}
  {#if attempt.refused && !(timing && attempt.at('at'))}<p class="text-ember-word mt-1 text-sm" role="alert">
      {attempt.refused.message}
    </p>{/if}
  <div class="flex gap-3 text-sm">
    {#if can?.canUndo && session.may('loads.roll')}<button
        class="text-lark mt-1 underline-offset-2 hover:underline"
        disabled={attempt.busy}
        onclick={() => void undo()}>Undo the last update here</button
      >{/if}
    {#if can?.canMove && session.may('loads.cover')}<button
        class="text-lark mt-1 underline-offset-2 hover:underline"
        onclick={() => (moving = !moving)}>Change</button
      >{/if}
    {#if can?.canJoin && session.may('loads.cover')}<button
        class="text-lark mt-1 underline-offset-2 hover:underline"
        onclick={() => void join()}>Join legs</button
      >{/if}
  </div>
  {#if moving}
    <SplitForm
      {view}
      transfer={t}
      ondone={() => {
        moving = false;
        void onchanged();
      }}
      oncancel={() => (moving = false)}
    />
  {/if}
</div>
