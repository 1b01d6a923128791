<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { onChange } from '$lib/state/change.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import TextField from '$ui/TextField.svelte';

  /** A trip's number, and what it is called beside it. */
  let { trip, may, onnamed }: { trip: Schemas['TripRow']; may: boolean; onnamed: () => Promise<void> } = $props();
  let open = $state(false);
  let number = $state('');
  let name = $state('');
  const attempt = new Attempt();
  onChange(
    () => trip.id,
    () => {
      open = false;
    },
  );
  const put = (to: Schemas['TripNameRequest']) =>
    take(api.PUT('/api/trips/{id}/name', { params: { path: { id: trip.id } }, body: to }));
  const save = () =>
    attempt.run(async () => {
      const was = { name: trip.name, number: trip.number };
      const named = await put({ name: name.trim() || null, number: number.trim() || null });
      open = false;
      showDone(
        named.number !== was.number
          ? `Trip ${was.number} is trip ${named.number} now.`
          : named.name
            ? `Trip ${named.number} is named ${named.name}.`
            : `Name of trip ${named.number} removed.`,
        () => put(was).then(onnamed),
      );
      await onnamed();
    });
</script>

{#if open}
  <InnerForm {attempt} action="Save" onact={save} oncancel={() => (open = false)}>
    <div class="grid grid-cols-[8rem_1fr] gap-3">
      <TextField label="Trip number" bind:value={number} maxlength={20} problem={attempt.at('number')} />
      <TextField label="Name" bind:value={name} maxlength={60} problem={attempt.at('name')} />
    </div>
  </InnerForm>
{:else}
  <p class="text-sm">
    {#if trip.name}<span class="font-bold">{trip.name}</span>{/if}
    {#if may}<Button
        small
        look="quiet"
        onclick={() => {
          name = trip.name ?? '';
          number = trip.number;
          open = true;
        }}>Number and name</Button
      >{/if}
  </p>
{/if}
