<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import Choice from '$ui/Choice.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import TextField from '$ui/TextField.svelte';

  /** Puts a co-driver on a trip, changes their share of the work, or takes them off it. */
  interface Props {
    trip: Schemas['TripRow'];
    ondone: () => Promise<void>;
    oncancel: () => void;
  }
  let { trip, ondone, oncancel }: Props = $props();
  const attempt = new Attempt();
  let drivers = $state<Schemas['FleetView']['drivers']>([]);
  // svelte-ignore state_referenced_locally -- where it begins
  let driver = $state(trip.codriverId ? String(trip.codriverId) : '');
  // svelte-ignore state_referenced_locally -- where it begins
  let share = $state(String(trip.codriverShare ?? 50));
  let reason = $state('');
  void take(api.GET('/api/fleet')).then((f) => (drivers = f.drivers.filter((d) => d.active)), showError);
  const put = (to: Schemas['CodriverRequest']) =>
    take(api.PUT('/api/trips/{id}/codriver', { params: { path: { id: trip.id } }, body: to }));
  const save = () =>
    attempt.run(async () => {
      const was = {
        driverId: trip.codriverId ?? null,
        share: trip.codriverShare ?? null,
        cabotageReason: reason || null,
      };
      const done = await put({
        driverId: Number(driver) || null,
        share: share.trim() ? Number(share) : null,
        cabotageReason: reason || null,
      });
      showDone(`${done.summary}.`, () => put(was).then(ondone));
      await ondone();
    });
</script>

<InnerForm {attempt} action={driver ? 'Save co-driver' : 'Take co-driver off'} onact={save} {oncancel}>
  <div class="grid grid-cols-3 gap-3" role="group" aria-label="Co-driver of trip {trip.number}">
    <Choice
      class="col-span-2"
      label="Co-driver"
      bind:value={driver}
      problem={attempt.at('driverId')}
      options={[
        { value: '', label: trip.codriverId ? `None: ${trip.driver} drives alone` : 'Choose a driver' },
        ...drivers.filter((d) => d.id !== trip.driverId).map((d) => ({ value: String(d.id), label: d.name })),
      ]}
    />
    <TextField label="Share of the work, %" inputmode="decimal" bind:value={share} problem={attempt.at('share')} />
    <p class="text-mute col-span-3 text-sm">
      The co-driver is paid this part of the miles, line haul and stops at their own rates, the driver the rest at
      theirs.
    </p>
    {#if attempt.at('cabotageReason')}<TextField
        class="col-span-3"
        label="Reason for cabotage"
        bind:value={reason}
        problem={attempt.at('cabotageReason')}
        maxlength={200}
      />{/if}
  </div>
</InnerForm>
