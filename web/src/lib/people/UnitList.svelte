<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';

  interface Props {
    kind: 'offices' | 'driver-groups';
    title: string;
    note: string;
  }
  let { kind, title, note }: Props = $props();
  let units = $state<Schemas['UnitRow'][] | null>(null);
  let name = $state('');
  /** The unit being renamed. */
  let renaming = $state<number | null>(null);
  let renamed = $state('');
  const attempt = new Attempt();
  const path = $derived(`/api/${kind}` as '/api/offices');
  const one = $derived(kind === 'offices' ? 'office' : 'driver group');
  const load = () =>
    take(api.GET(path))
      .then((u) => (units = u))
      .catch(showError);
  $effect(() => void load());
  const add = () =>
    attempt.run(async () => {
      const made = await take(api.POST(path, { body: { name, active: true } }));
      showDone(`${made.name} added.`);
      name = '';
      await load();
    });
  const change = (unit: Schemas['UnitRow'], to: { name: string; active: boolean }) =>
    attempt.run(async () => {
      await take(api.PUT(`${path}/{id}` as '/api/offices/{id}', { params: { path: { id: unit.id } }, body: to }));
      showDone(`${to.name} ${to.active === unit.active ? 'renamed' : to.active ? 'reactivated' : 'deactivated'}.`);
      renaming = null;
      await load();
    });
</script>

<section aria-label={title}>
  <h2 class="text-mute mb-1 text-sm font-bold">{title}</h2>
  <p class="text-mute mb-2 text-sm">{note}</p>
  <ul>
    {#each units ?? [] as unit (unit.id)}
      <li class="border-line flex min-h-[36px] items-center gap-2 border-b py-1">
        {#if renaming === unit.id}
          <form
            class="flex flex-1 items-end gap-2"
            onsubmit={(e) => {
              e.preventDefault();
              void change(unit, { name: renamed, active: unit.active });
            }}
          >
            <TextField class="flex-1" label="New name" bind:value={renamed} maxlength={60} required />
            <Button small type="submit" busy={attempt.busy}>Save</Button>
            <Button small look="quiet" onclick={() => (renaming = null)}>Cancel</Button>
          </form>
        {:else}
          <span class="min-w-0 flex-1 truncate font-bold {unit.active ? '' : 'text-mute line-through'}"
            >{unit.name}</span
          >
          {#if session.may('setup.edit')}
            <Button
              small
              look="quiet"
              onclick={() => {
                renaming = unit.id;
                renamed = unit.name;
              }}>Rename</Button
            >
            <Button small look="quiet" onclick={() => change(unit, { name: unit.name, active: !unit.active })}
              >{unit.active ? 'Deactivate' : 'Reactivate'}</Button
            >
          {/if}
        {/if}
      </li>
    {:else}
      {#if units}<li class="text-mute py-2 text-sm">None yet.</li>{/if}
    {/each}
  </ul>
  {#if session.may('setup.edit')}
    <form
      class="mt-3 flex items-end gap-2"
      onsubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <TextField class="flex-1" label="New {one}" bind:value={name} maxlength={60} problem={attempt.at('name')} />
      <Button type="submit" busy={attempt.busy} disabled={!name.trim()}>Add</Button>
    </form>
    {#if attempt.refused?.general}<p class="text-ember-word text-sm" role="alert">{attempt.refused.general}</p>{/if}
  {/if}
</section>
