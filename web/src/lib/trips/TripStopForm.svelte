<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import type { Where } from '$lib/companies/find';
  import WherePicker from '$lib/companies/WherePicker.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import Choice from '$ui/Choice.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import { session } from '$lib/state/session.svelte';
  import { equipmentLabels } from '$lib/loads/labels';
  import { instantOf, type Local } from '$lib/time/when';
  import TextField from '$ui/TextField.svelte';
  import WhenField from '$ui/WhenField.svelte';
  import { ofTrailer, tripStopLabels } from './stops';

  /** Adds a stop of the trip's own where it adds the fewest miles. */
  interface Props {
    trip: Schemas['TripRow'];
    /** Its trailers. */
    has: Schemas['TripSheet']['trailers'];
    /** Whether the trailer has to be hooked somewhere first. */
    away: boolean;
    ondone: () => Promise<void>;
    oncancel: () => void;
  }
  let { trip, has, away, ondone, oncancel }: Props = $props();
  const attempt = new Attempt();
  // svelte-ignore state_referenced_locally -- where it begins
  let kind = $state<Schemas['TripStopKind']>(away ? 'hook' : 'fuel');
  let where = $state<Where | null>(null);
  let minutes = $state('');
  let starts = $state<Local | null>(null);
  let note = $state('');
  // svelte-ignore state_referenced_locally -- where it begins
  let trailer = $state(String(trip.trailerId ?? ''));
  let fleet = $state<Schemas['TrailerRow'][]>([]);
  void take(api.GET('/api/fleet')).then((f) => (fleet = f.trailers.filter((t) => t.active)), showError);
  /** Any trailer can be hooked; one that the trip has can be dropped. */
  const trailers = $derived(
    (kind === 'hook' ? fleet : has).map((t) => ({
      value: String(t.id),
      label: `${t.unit}, ${equipmentLabels[t.equipment ?? ''] ?? ''}`,
    })),
  );
  $effect(() => {
    if (kind === 'drop' && !has.some((t) => String(t.id) === trailer)) trailer = String(trip.trailerId ?? '');
  });
  const late = $derived(attempt.at('allowLate'));
  const kinds = $derived(
    (Object.keys(tripStopLabels) as Schemas['TripStopKind'][]).map((k) => ({ value: k, label: tripStopLabels[k] })),
  );
  const send = () =>
    attempt.run(async () => {
      const done = await take(
        api.POST('/api/trips/{id}/stops', {
          params: { path: { id: trip.id } },
          body: {
            kind,
            placeId: where?.placeId ?? null,
            townId: where?.townId ?? null,
            minutes: minutes.trim() ? Math.round(Number(minutes)) : null,
            note: note || null,
            allowLate: !!late,
            ...(ofTrailer(kind) && trailer ? { trailerId: Number(trailer) } : {}),
            ...(kind === 'start' && starts ? { startsAt: instantOf(starts, session.zone) } : {}),
          },
        }),
      );
      showDone(`${done.summary}.`, () =>
        take(
          api.POST('/api/trips/{id}/stops/{stopId}/remove', {
            params: { path: { id: trip.id, stopId: done.stopId } },
          }),
        ),
      );
      await ondone();
    });
</script>

<InnerForm {attempt} action={late ? 'Add stop anyway' : 'Add stop'} onact={send} {oncancel}>
  <div class="grid grid-cols-4 gap-3" role="group" aria-label="Add a stop to trip {trip.number}">
    <Choice class="col-span-2" label="Stop" bind:value={kind} problem={attempt.at('kind')} options={kinds} />
    <WherePicker
      class="col-span-2"
      label="Where"
      required={kind !== 'hook'}
      bind:value={where}
      placeholder={kind === 'hook' ? 'Where the trailer is' : undefined}
      problem={attempt.at('placeId')}
    />
    {#if ofTrailer(kind) && has.length}<Choice
        class="col-span-2"
        label="Trailer"
        bind:value={trailer}
        options={trailers}
        problem={attempt.at('trailerId')}
      />{/if}
    {#if kind === 'start'}<WhenField
        class="col-span-2"
        label="Start time"
        bind:value={starts}
        problem={attempt.at('startsAt')}
      />{/if}
    <TextField
      class="col-span-1"
      label="Minutes"
      inputmode="numeric"
      bind:value={minutes}
      problem={attempt.at('minutes')}
    />
    <TextField
      class={kind === 'start' || ofTrailer(kind) ? 'col-span-1' : 'col-span-3'}
      label="Note"
      bind:value={note}
      maxlength={200}
      problem={attempt.at('note')}
    />
  </div>
</InnerForm>
