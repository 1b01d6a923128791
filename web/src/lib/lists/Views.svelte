<script lang="ts">
  import { tick } from 'svelte';
  import { call, type Schemas } from '$lib/api/client';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import Select from '$ui/Select.svelte';
  import { fitted, type Shape } from './list';

  /** Saved views: one's own, and those that others share. */
  interface Props {
    about: Schemas['ListDescription'];
    shape: Shape;
    tool: string;
    onchanged: () => Promise<void>;
  }
  let { about, shape = $bindable(), tool, onchanged }: Props = $props();
  let naming = $state(false);
  let name = $state('');
  let shared = $state(false);
  let used = $state('');
  /** Empty again once a choice was made: the same view can be chosen again after changes. */
  let picked = $state('');
  const current = $derived(about.views.find((v) => String(v.id) === used));

  function use(id: string) {
    used = id;
    void tick().then(() => (picked = ''));
    const view = about.views.find((v) => String(v.id) === id);
    if (view)
      shape = fitted({ ...shape, groups: [], ...(view.definition as unknown as Partial<Shape>) }, about.columns);
  }
  async function save() {
    try {
      const title = name.trim();
      const saved = await call<Schemas['SavedView']>(`/api/lists/${about.name}/views`, {
        name: title,
        shared,
        definition: $state.snapshot(shape),
      });
      await onchanged();
      used = String(saved.id);
      showDone(`View “${title}” saved${shared ? ' and shared' : ''}.`);
      naming = false;
    } catch (e) {
      showError(e);
    }
  }
  async function remove() {
    if (!current) return;
    try {
      await call(`/api/lists/${about.name}/views/${current.id}/delete`, {});
      showDone(`View “${current.name}” deleted.`);
      used = '';
      await onchanged();
    } catch (e) {
      showError(e);
    }
  }
</script>

{#if about.views.length > 0}
  <Select
    class="{tool} max-w-48"
    label="Views"
    placeholder={current?.name ?? 'Views'}
    options={about.views.map((v) => ({ value: String(v.id), label: v.own ? v.name : `${v.name} (${v.by})` }))}
    bind:value={picked}
    onchange={use}
  />
{/if}
{#if naming}
  <input class="{tool} w-36" bind:value={name} maxlength="60" placeholder="View name" aria-label="View name" />
  <label class="flex items-center gap-1 text-sm"
    ><input type="checkbox" bind:checked={shared} />Share with everyone</label
  >
  <Button small disabled={!name.trim()} onclick={save}>Save</Button>
  <Button small look="quiet" onclick={() => (naming = false)}>Cancel</Button>
{:else}
  <button
    class={tool}
    onclick={() => {
      name = current?.own ? current.name : '';
      shared = current?.own ? current.shared : false;
      naming = true;
    }}>Save view</button
  >
  {#if current?.own}<button class={tool} onclick={remove}>Delete view</button>{/if}
{/if}
