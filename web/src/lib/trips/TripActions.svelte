<script lang="ts">
  import { goto } from '$app/navigation';
  import { api, moneyKey, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { onChange } from '$lib/state/change.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { addDays, localAt } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import DateField from '$ui/DateField.svelte';
  import Notice from '$ui/Notice.svelte';

  /** What can be done with a trip as a whole: copy, dissolve, close, archive. */
  interface Props {
    sheet: Schemas['TripSheet'];
    onchanged: () => Promise<void>;
  }
  let { sheet, onchanged }: Props = $props();
  const t = $derived(sheet.trip);
  const may = $derived(session.may('loads.cover'));
  let asking = $state<'copy' | 'dissolve' | null>(null);
  let on = $state('');
  let assign = $state(true);
  const attempt = new Attempt();
  const names = $derived(sheet.drivers.map((d) => d.name).join(' and '));
  const loads = $derived(sheet.loads.map((l) => l.load).join(', '));
  const ask = (what: typeof asking) => {
    asking = asking === what ? null : what;
    on = addDays(localAt(t.from, session.zone).slice(0, 10), 7);
    attempt.refused = null;
  };
  onChange(
    () => t.id,
    () => {
      asking = null;
      attempt.refused = null;
    },
  );

  const put = (body: Schemas['TripClosingRequest']) =>
    take(api.PUT('/api/trips/{id}/closing', { params: { path: { id: t.id } }, body }));
  const close = (closed: boolean, archived: boolean, said: string) =>
    attempt.run(async () => {
      const was = { closed: !!t.closedAt, archived: !!t.archivedAt };
      await put({ closed, archived });
      showDone(`Trip ${t.number} ${said}.`, () => put(was).then(onchanged));
      await onchanged();
    });
  const dissolve = () =>
    attempt.run(async () => {
      const done = await take(api.POST('/api/trips/{id}/dissolve', { params: { path: { id: t.id } } }));
      showDone(done.summary);
      await goto('/cover');
    });
  const undoCopy = async (copy: Schemas['TripCopyAnswer']) => {
    if (copy.tripId) await take(api.POST('/api/trips/{id}/dissolve', { params: { path: { id: copy.tripId } } }));
    for (const load of copy.loads)
      await take(
        api.POST('/api/loads/{id}/cancel', {
          params: { path: { id: load.id } },
          body: { why: 'Copy of a trip undone' },
        }),
      );
  };
  const copy = () =>
    attempt.run(async () => {
      const made = await take(
        api.POST('/api/trips/{id}/copy', {
          params: { path: { id: t.id } },
          headers: moneyKey(),
          body: { on: on || null, assign },
        }),
      );
      asking = null;
      showDone(`${made.summary}.`, () => undoCopy(made));
      await goto(made.tripId ? `/trip/${made.tripId}` : '/cover');
    });
</script>

{#if may}
  <div class="flex flex-wrap justify-end gap-1">
    {#if session.may('loads.book') && sheet.loads.length}
      <Button small look="quiet" onclick={() => ask('copy')}>Copy trip</Button>
    {/if}
    {#if !t.startedAt && !t.canceledAt}
      <Button small look="quiet" onclick={() => ask('dissolve')}>Dissolve trip</Button>
    {/if}
    {#if t.archivedAt}
      <Button small look="quiet" onclick={() => void close(!!t.closedAt, false, 'is out of the archive')}
        >Take out of the archive</Button
      >
    {:else if t.closedAt || t.canceledAt}
      {#if t.closedAt}<Button small look="quiet" onclick={() => void close(false, false, 'reopened')}
          >Reopen trip</Button
        >{/if}
      <Button small look="quiet" onclick={() => void close(!!t.closedAt, true, 'archived')}>Archive trip</Button>
    {:else if t.endedAt}
      <Button small look="quiet" onclick={() => void close(true, false, 'closed')}>Close trip</Button>
    {/if}
  </div>
{/if}
{#if asking}
  <div class="mt-2 basis-full" role="group" aria-label={asking === 'copy' ? 'Copy trip' : 'Dissolve trip'}>
    {#if asking === 'dissolve'}
      <Notice urgency="soon" title="Dissolve trip {t.number}">
        {names}
        {sheet.drivers.length > 1 ? 'are' : 'is'} unassigned. {loads} stay open and have to be covered again.
        <div class="mt-2 flex gap-2">
          <Button look="main" small busy={attempt.busy} onclick={dissolve}>Dissolve trip {t.number}</Button>
          <Button small look="quiet" onclick={() => (asking = null)}>Cancel</Button>
        </div>
      </Notice>
    {:else}
      <form
        class="border-line rounded border p-3"
        onsubmit={(e) => {
          e.preventDefault();
          void copy();
        }}
      >
        <p class="text-mute text-sm">
          Books {loads} again with the same times, charges and stops, in the same order.
        </p>
        <div class="mt-2 flex flex-wrap items-end gap-4">
          <DateField class="w-44" label="Begins on" required bind:value={on} problem={attempt.at('on')} />
          <label class="flex h-9 items-center gap-2 text-sm"
            ><input type="checkbox" bind:checked={assign} />Assign to {names}, truck {t.truck}</label
          >
          <Button look="main" small type="submit" busy={attempt.busy}>Copy trip {t.number}</Button>
          <Button small look="quiet" onclick={() => (asking = null)}>Cancel</Button>
        </div>
      </form>
    {/if}
  </div>
{/if}
{#if attempt.refused && !attempt.at('on')}
  <div class="mt-2 basis-full"><Notice title="Not allowed">{attempt.refused.message}</Notice></div>
{/if}
