<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { figure } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import Part from '$ui/Part.svelte';

  /** The loads on a trip with what each brings and costs. */
  interface Props {
    sheet: Schemas['TripSheet'];
    may: boolean;
    onchanged: () => Promise<void>;
  }
  let { sheet, may, onchanged }: Props = $props();
  const attempt = new Attempt();
  const started = (l: Schemas['TripLoad']) => sheet.visits.some((v) => v.loadId === l.loadId && v.reached);
  const remove = (l: Schemas['TripLoad']) =>
    attempt.run(async () => {
      await take(api.POST('/api/loads/{id}/unassign', { params: { path: { id: l.loadId }, query: { leg: l.legId } } }));
      showDone(`${l.load} removed from trip ${sheet.trip.number}; it is open again.`, () =>
        take(
          api.POST('/api/loads/{id}/cover/trip', {
            params: { path: { id: l.loadId }, query: { leg: l.legId } },
            body: { tripId: sheet.trip.id, allowLate: true },
          }),
        ),
      );
      await onchanged();
    });
  const put = (l: Schemas['TripLoad'], trailerId: number) =>
    take(
      api.PUT('/api/trips/{id}/legs/{leg}/trailer', {
        params: { path: { id: sheet.trip.id, leg: l.legId } },
        body: { trailerId },
      }),
    );
  const move = (l: Schemas['TripLoad'], trailerId: number) =>
    attempt.run(async () => {
      const done = await put(l, trailerId);
      showDone(`${done.summary}.`, () => put(l, l.trailerId!));
      await onchanged();
    });
</script>

<Part title="Loads on this trip">
  {#each sheet.loads as l (l.legId)}
    <div class="border-line flex items-baseline justify-between gap-2 border-b py-1.5 last:border-0">
      <span class="min-w-0">
        <a class="text-lark fig font-bold underline" href="/load/{l.loadId}">{l.load}</a>
        <span>{l.customer}</span>
        <span class="text-mute block truncate text-sm">{l.lane.replace(' to ', ' → ')} · {l.state}</span>
        {#if sheet.trailers.length > 1}<span class="block text-sm"
            >in trailer <b class="fig">{l.trailer}</b>
            {#if may && l.mayChangeTrailer}{#each sheet.trailers.filter((t) => t.id !== l.trailerId) as t (t.id)}<Button
                  small
                  look="quiet"
                  busy={attempt.busy}
                  aria-label="Move {l.load} to trailer {t.unit}"
                  onclick={() => move(l, t.id)}>Move to {t.unit}</Button
                >{/each}{/if}</span
          >{/if}
      </span>
      <span class="fig shrink-0 text-right text-sm">
        {#if l.revenue}{figure(l.revenue)}{/if}
        {#if l.cost}<span class="text-mute block">cost {figure(l.cost)}</span>{/if}
        {#if may && sheet.loads.length > 1 && !started(l)}<Button
            class="-mr-2.5 block font-sans"
            small
            look="quiet"
            busy={attempt.busy}
            aria-label="Remove {l.load} from the trip"
            onclick={() => remove(l)}>Remove</Button
          >{/if}
      </span>
    </div>
  {/each}
  {#if attempt.refused}<p class="text-ember-word mt-1 text-sm" role="alert">{attempt.refused.message}</p>{/if}
</Part>
