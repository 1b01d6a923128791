<script lang="ts">
  import { api, moneyKey, take, type Schemas } from '../api/client';
  import type { Where } from '../companies/find';
  import WherePicker from '../companies/WherePicker.svelte';
  import { equipmentLabels } from '../loads/labels';
  import { Attempt } from '../state/attempt.svelte';
  import { showDone, showError } from '../state/messages.svelte';
  import { session } from '../state/session.svelte';
  import { formatLocal, instantOf, localAt, type Local } from '../time/when';
  import Choice from '$ui/Choice.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import TextField from '$ui/TextField.svelte';
  import WhenField from '$ui/WhenField.svelte';

  /** A move that bills nobody: an empty trailer that is needed elsewhere, or freight of our own. */
  interface Props {
    trailers: Schemas['PlanUnit'][];
    drivers: Schemas['PlanDriver'][];
    /** The trailer to begin with. */
    first: number | null;
    ondone: () => Promise<void>;
    oncancel: () => void;
  }
  let { trailers, drivers, first, ondone, oncancel }: Props = $props();
  const attempt = new Attempt();
  // svelte-ignore state_referenced_locally -- where it begins
  let trailer = $state(first ? String(first) : '');
  let equipment = $state('');
  let what = $state('');
  let from = $state<Where | null>(null);
  let to = $state<Where | null>(null);
  let ready = $state<Local | null>(null);
  let by = $state<Local | null>(null);
  let driver = $state('');
  let instructions = $state('');
  let places = $state<Schemas['UnitAt'][]>([]);
  void take(api.GET('/api/fleet/locations')).then((l) => (places = l.trailers), showError);
  const at = $derived(places.find((p) => String(p.id) === trailer));
  const save = () =>
    attempt.run(async () => {
      const done = await take(
        api.POST('/api/moves', {
          body: {
            trailerId: Number(trailer) || null,
            what: what || null,
            equipment: trailer ? null : ((equipment || null) as Schemas['Equipment'] | null),
            fromPlaceId: from?.placeId ?? null,
            fromTownId: from?.townId ?? null,
            toPlaceId: to?.placeId ?? null,
            toTownId: to?.townId ?? null,
            from: ready ? instantOf(ready, session.zone) : null,
            by: by ? instantOf(by, session.zone) : null,
            driverId: Number(driver) || null,
            instructions: instructions || null,
          },
        }),
      );
      showDone(`Move ${done.number} is ${done.state}.`, () =>
        take(
          api.POST('/api/loads/{id}/cancel', {
            params: { path: { id: done.id } },
            headers: moneyKey(),
            body: { why: 'Undone right after it was entered' },
          }),
        ).then(ondone),
      );
      await ondone();
    });
</script>

<div class="px-5 pt-4 pb-3">
  <h2 class="pr-8 text-lg font-bold">New move</h2>
  <p class="text-mute text-sm">Not billed to a customer. The driver is paid at their rates for empty miles.</p>
</div>
<div class="px-5 pb-4">
  <InnerForm {attempt} action={driver ? 'Book and assign' : 'Book move'} onact={save} {oncancel}>
    <div class="grid grid-cols-2 gap-3" role="group" aria-label="New move">
      <Choice
        class="col-span-2"
        label="Trailer to move"
        bind:value={trailer}
        problem={attempt.at('trailerId')}
        options={[
          { value: '', label: 'Choose a trailer, or none for freight of our own' },
          ...trailers.map((t) => ({
            value: String(t.id),
            label: `Trailer ${t.unit}, ${equipmentLabels[t.equipment ?? ''] ?? ''}`,
          })),
        ]}
      />
      {#if at}<p class="text-mute col-span-2 -mt-2 text-sm">
          {at.where}, {formatLocal(localAt(at.at, session.zone))}
        </p>{/if}
      {#if !trailer}<Choice
          class="col-span-2"
          label="Equipment"
          bind:value={equipment}
          problem={attempt.at('equipment')}
          options={[
            { value: '', label: 'Choose the trailer type' },
            ...Object.entries(equipmentLabels).map(([value, label]) => ({ value, label })),
          ]}
        />{/if}
      <TextField
        class="col-span-2"
        label={trailer ? 'Freight in it, if any' : 'Freight'}
        bind:value={what}
        maxlength={200}
        problem={attempt.at('what')}
      />
      <WherePicker
        class="col-span-2"
        label="From"
        required={!at}
        bind:value={from}
        placeholder={at ? 'Where the trailer is' : undefined}
        problem={attempt.at('fromPlaceId')}
      />
      <WherePicker class="col-span-2" label="To" required bind:value={to} problem={attempt.at('toPlaceId')} />
      <WhenField label="Ready from" required bind:value={ready} problem={attempt.at('from')} />
      <WhenField label="There by" required like={ready} bind:value={by} problem={attempt.at('by')} />
      <Choice
        class="col-span-2"
        label="Driver"
        bind:value={driver}
        problem={attempt.at('driverId') ?? attempt.at('truckId')}
        options={[
          { value: '', label: 'Assign later' },
          ...drivers.map((d) => ({
            value: String(d.id),
            label: d.freeTown ? `${d.name}, ${d.freeTown}` : d.name,
          })),
        ]}
      />
      <TextField
        class="col-span-2"
        label="Driver instructions"
        bind:value={instructions}
        maxlength={4000}
        problem={attempt.at('instructions')}
      />
    </div>
  </InnerForm>
</div>
