<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import TextField from '$ui/TextField.svelte';

  /** Custom fields of loads. */
  let fields = $state<Schemas['CustomField'][] | null>(null);
  let name = $state('');
  let kind = $state('text');
  let choices = $state('');
  let required = $state(false);
  const attempt = new Attempt();
  const kinds = [
    { value: 'text', label: 'text' },
    { value: 'number', label: 'number' },
    { value: 'date', label: 'date' },
    { value: 'choice', label: 'choice' },
  ];
  async function load() {
    fields = await take(api.GET('/api/custom-fields')).catch((e) => {
      showError(e);
      return [];
    });
  }
  $effect(() => void load());
  const add = () =>
    attempt.run(async () => {
      const made = await take(
        api.POST('/api/custom-fields', {
          body: { name, kind: kind as Schemas['CustomFieldKind'], choices: choices.split(','), required },
        }),
      );
      showDone(`Field ${made.name} added.`);
      name = choices = '';
      required = false;
      await load();
    });
  async function retire(field: Schemas['CustomField']) {
    try {
      await take(api.POST('/api/custom-fields/{id}/deactivate', { params: { path: { id: field.id } } }));
      showDone(`Field ${field.name} deactivated. Existing values are kept.`);
      await load();
    } catch (e) {
      showError(e);
    }
  }
</script>

<div class="max-w-3xl px-5">
  <p class="text-mute mb-3 text-sm">
    Extra information about loads that you or your customers need: asked for at booking, searchable from the line, and
    available as invoice columns.
  </p>
  <ul>
    {#each fields ?? [] as field (field.id)}
      <li class="border-line flex min-h-[36px] items-center gap-3 border-b py-1">
        <b class="w-48 truncate">{field.name}</b>
        <span class="text-mute min-w-0 flex-1 truncate text-sm"
          >{kinds.find((k) => k.value === field.kind)?.label}{field.choices.length
            ? `: ${field.choices.join(', ')}`
            : ''}{field.required ? ' · required' : ''}</span
        >
        {#if session.may('setup.edit')}<Button small look="quiet" onclick={() => retire(field)}>Deactivate</Button>{/if}
      </li>
    {:else}
      <li class="text-mute py-2">No custom fields yet.</li>
    {/each}
  </ul>
  {#if session.may('setup.edit')}
    <form
      class="border-line bg-panel mt-4 grid grid-cols-12 gap-2 rounded-md border p-3"
      aria-label="New field"
      onsubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <TextField
        class="col-span-4"
        label="Name"
        required
        bind:value={name}
        maxlength={40}
        problem={attempt.at('name')}
        placeholder="Cost center"
      />
      <Choice class="col-span-3" label="Field type" bind:value={kind} options={kinds} problem={attempt.at('kind')} />
      {#if kind === 'choice'}<TextField
          class="col-span-5"
          label="Choices, separated by commas"
          bind:value={choices}
          problem={attempt.at('choices')}
        />{/if}
      <label class="col-span-12 flex items-center gap-2 text-sm"
        ><input type="checkbox" bind:checked={required} />Required before a load is booked</label
      >
      <div class="col-span-12"><Button look="main" small type="submit" busy={attempt.busy}>Add field</Button></div>
    </form>
  {/if}
</div>
