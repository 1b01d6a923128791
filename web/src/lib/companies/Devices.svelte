<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatShort, localAt } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';

  /** The devices that may report a truck's position. */
  let { truckId }: { truckId: number } = $props();
  let devices = $state<Schemas['DeviceRow'][] | null>(null);
  let label = $state('');
  /** The address of the device just issued, with its token: shown once. */
  let issued = $state('');
  const attempt = new Attempt();
  const path = $derived({ params: { path: { id: truckId } } });

  const load = () =>
    take(api.GET('/api/trucks/{id}/devices', path))
      .then((d) => (devices = d))
      .catch(showError);
  $effect(() => void load());

  const issue = () =>
    attempt.run(async () => {
      issued = (await take(api.POST('/api/trucks/{id}/devices', { ...path, body: { label } }))).address;
      label = '';
      await load();
    });
  const revoke = (d: Schemas['DeviceRow']) =>
    attempt.run(async () => {
      await take(
        api.POST('/api/trucks/{id}/devices/{deviceId}/revoke', { params: { path: { id: truckId, deviceId: d.id } } }),
      );
      showDone(`Device ${d.label} revoked.`);
      await load();
    });
</script>

<Part title="Tracking devices">
  <ul class="text-sm">
    {#each devices ?? [] as d (d.id)}
      <li class="border-faint flex items-center gap-3 border-b py-1">
        <b class="min-w-0 flex-1 truncate">{d.label}</b>
        <span class="text-mute"
          >{d.lastUsedAt ? `last report ${formatShort(localAt(d.lastUsedAt, session.zone))}` : 'no report yet'}</span
        >
        {#if session.may('fleet.edit')}<Button small look="quiet" onclick={() => revoke(d)}>Revoke</Button>{/if}
      </li>
    {:else}<li class="text-mute">No devices.</li>{/each}
  </ul>
  {#if issued}
    <p class="mt-2 text-sm" role="status">
      The device posts its positions to this address. Copy it now; it is not shown again:
      <b class="fig block break-all select-all">{issued}</b>
    </p>
  {/if}
  {#if session.may('fleet.edit')}
    <form
      class="mt-2 flex items-end gap-2"
      onsubmit={(e) => {
        e.preventDefault();
        void issue();
      }}
    >
      <TextField class="flex-1" label="Device name" bind:value={label} maxlength={60} problem={attempt.at('label')} />
      <Button small type="submit" busy={attempt.busy} disabled={!label.trim()}>Add device</Button>
    </form>
  {/if}
</Part>
