<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { api, take, type Schemas } from '$lib/api/client';
  import { findTowns } from './find';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { zoneName } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import { takesFocus } from '$ui/forms';
  import Picker from '$ui/Picker.svelte';
  import TextField from '$ui/TextField.svelte';

  interface Props {
    name?: string;
    onmade: (place: Schemas['PlaceRow']) => void;
    oncancel?: () => void;
  }
  let { name = '', onmade, oncancel }: Props = $props();
  // svelte-ignore state_referenced_locally -- what was typed is only where it begins
  let placeName = $state(name);
  let address = $state('');
  let town = $state<Schemas['TownRow'] | null>(null);
  const attempt = new Attempt();
  const draft = new Draft(
    () => 'place',
    () => ({ placeName, address, town }),
    (v) => {
      ({ placeName, address, town } = v);
    },
  );

  async function save() {
    await attempt.run(async () => {
      const made = await take(
        api.POST('/api/places', {
          body: {
            name: placeName,
            address: address || null,
            townId: town?.id ?? null,
            note: null,
            latitude: null,
            longitude: null,
            geofenceMiles: null,
            geofence: null,
            docks: null,
            hours: null,
            serviceMinutes: null,
            appointments: null,
            bookingNote: null,
          },
        }),
      );
      showDone(`${made.name} in ${made.town} added to the address book.`);
      draft.done();
      onmade(made);
    });
  }
</script>

<div
  use:takesFocus
  data-form
  class="border-line bg-paper grid grid-cols-6 gap-2 rounded-md border p-3"
  role="group"
  aria-label="New place"
>
  <DraftNotice {draft} class="col-span-6" />
  <TextField
    class="col-span-3"
    label="Place name"
    required
    bind:value={placeName}
    problem={attempt.at('name')}
    maxlength={120}
  />
  <Picker
    class="col-span-3"
    label="Town"
    required
    bind:value={town}
    find={findTowns}
    name={(t) => `${t.name} ${t.region}`}
    detail={(t) => zoneName(t.zone)}
    key={(t) => t.id}
    problem={attempt.at('townId')}
    hint={town ? `${zoneName(town.zone)} time` : undefined}
  />
  <TextField class="col-span-6" label="Street address" bind:value={address} problem={attempt.at('address')} />
  <div class="col-span-6 flex gap-2">
    <Button data-main look="main" small busy={attempt.busy} onclick={save}>Create {placeName || 'place'}</Button>
    {#if oncancel}<Button data-cancel small look="quiet" onclick={oncancel}>Cancel</Button>{/if}
  </div>
</div>
