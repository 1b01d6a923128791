<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { onChange } from '$lib/state/change.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import TextField from '$ui/TextField.svelte';

  /** What a trip is called beside its number. */
  let { trip, may, onnamed }: { trip: Schemas['TripRow']; may: boolean; onnamed: () => Promise<void> } = $props();
  let open = $state(false);
  let name = $state('');
  const attempt = new Attempt();
  onChange(
    () => trip.id,
    () => {
      open = false;
    },
  );
  const put = (to: string | null) =>
    take(api.PUT('/api/trips/{id}/name', { params: { path: { id: trip.id } }, body: { name: to } }));
  const save = () =>
    attempt.run(async () => {
      const was = trip.name;
      const named = await put(name.trim() || null);
      open = false;
      showDone(
        named.name ? `Trip ${named.number} is named ${named.name}.` : `Name of trip ${named.number} removed.`,
        () => put(was),
      );
      await onnamed();
    });
</script>

{#if open}
  <InnerForm {attempt} action="Save name" onact={save} oncancel={() => (open = false)}>
    <TextField label="Name" bind:value={name} problem={attempt.at('name')} />
  </InnerForm>
{:else}
  <p class="text-sm">
    {#if trip.name}<span class="font-bold">{trip.name}</span>{/if}
    {#if may}<Button
        small
        look="quiet"
        onclick={() => {
          name = trip.name ?? '';
          open = true;
        }}>{trip.name ? 'Change name' : 'Name trip'}</Button
      >{/if}
  </p>
{/if}
