<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { findPlaces } from '$lib/companies/find';
  import { api, ifMatch, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import type { Local } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Picker from '$ui/Picker.svelte';
  import WhenField from '$ui/WhenField.svelte';

  /** One more delivery for a load in progress. */
  let { view, ondone }: { view: Schemas['LoadSheetView']; ondone: () => Promise<void> } = $props();
  const l = $derived(view.sheet.load);
  let place = $state<Schemas['PlaceRow'] | null>(null);
  let at = $state<Local | null>(null);
  const attempt = new Attempt();
  const draft = new Draft(
    () => `delivery for ${view.sheet.load.id}`,
    () => ({ place, at }),
    (v) => ({ place, at } = v),
  );
  const add = () =>
    attempt.run(async () => {
      const done = await take(
        api.POST('/api/loads/{id}/stops', {
          params: { path: { id: l.id } },
          body: { kind: 'delivery', placeId: place?.id ?? null, from: at, until: null, note: null },
          headers: ifMatch(l.version),
        }),
      );
      showDone(`${done.summary}.`);
      draft.done();
      await ondone();
    });
</script>

<form
  class="border-line bg-paper mb-2 grid grid-cols-6 gap-2 rounded-md border p-3"
  aria-label="Add delivery"
  onsubmit={(e) => {
    e.preventDefault();
    void add();
  }}
>
  <DraftNotice {draft} class="col-span-6" />
  <Picker
    class="col-span-3"
    label="New delivery location"
    required
    bind:value={place}
    find={findPlaces}
    name={(p) => p.name}
    detail={(p) => `${p.town} ${p.region}`}
    key={(p) => p.id}
    problem={attempt.at('placeId')}
  />
  <WhenField
    class="col-span-3"
    label="Appointment"
    required
    bind:value={at}
    zone={place?.zone}
    like={l.stops.at(-1)?.from}
    problem={attempt.at('from')}
  />
  <div class="col-span-6 flex items-center gap-2">
    <Button look="main" small type="submit" busy={attempt.busy}>Add {place?.name ?? 'stop'}</Button>
    {#if attempt.refused && !attempt.refused.problems.some((p) => p.field)}<p
        class="text-ember-word text-sm"
        role="alert"
      >
        {attempt.refused.message}
      </p>{/if}
  </div>
</form>
