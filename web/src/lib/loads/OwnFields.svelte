<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { told, wentWrong } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import TextField from '$ui/TextField.svelte';

  /** The fields that the business adds to its loads. */
  let fields = $state<Schemas['OwnField'][] | null>(null);
  let name = $state('');
  let kind = $state('text');
  let choices = $state('');
  let required = $state(false);
  const attempt = new Attempt();
  const kinds = [
    { value: 'text', label: 'words' },
    { value: 'number', label: 'a number' },
    { value: 'date', label: 'a date' },
    { value: 'choice', label: 'one of a list' },
  ];
  async function load() {
    fields = await take(api.GET('/api/own-fields')).catch((e) => {
      wentWrong(e);
      return [];
    });
  }
  $effect(() => void load());
  const add = () =>
    attempt.run(async () => {
      const made = await take(
        api.POST('/api/own-fields', {
          body: { name, kind: kind as Schemas['OwnFieldKind'], choices: choices.split(','), required },
        }),
      );
      told(`${made.name} is on every new load now.`);
      name = choices = '';
      required = false;
      await load();
    });
  async function retire(field: Schemas['OwnField']) {
    try {
      await take(api.POST('/api/own-fields/{id}/retire', { params: { path: { id: field.id } } }));
      told(`${field.name} is taken off new loads. What was written stays.`);
      await load();
    } catch (e) {
      wentWrong(e);
    }
  }
</script>

<div class="max-w-3xl px-5">
  <p class="text-mute mb-3 text-sm">
    What your customers or you want to know of a load and we do not ask: it is asked while booking, found by the line,
    and can stand on invoices.
  </p>
  <ul>
    {#each fields ?? [] as field (field.id)}
      <li class="border-line flex min-h-[36px] items-center gap-3 border-b py-1">
        <b class="w-48 truncate">{field.name}</b>
        <span class="text-mute min-w-0 flex-1 truncate text-sm"
          >{kinds.find((k) => k.value === field.kind)?.label}{field.choices.length
            ? `: ${field.choices.join(', ')}`
            : ''}{field.required ? ' · must be filled' : ''}</span
        >
        {#if session.may('setup.edit')}<Button small look="quiet" onclick={() => retire(field)}>Take off</Button>{/if}
      </li>
    {:else}
      <li class="text-mute py-2">No fields of your own yet.</li>
    {/each}
  </ul>
  {#if session.may('setup.edit')}
    <form
      class="border-line bg-panel mt-4 grid grid-cols-12 gap-2 rounded-md border p-3"
      aria-label="A new field"
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
      <Choice class="col-span-3" label="It takes" bind:value={kind} options={kinds} problem={attempt.at('kind')} />
      {#if kind === 'choice'}<TextField
          class="col-span-5"
          label="Choices, with commas between"
          bind:value={choices}
          problem={attempt.at('choices')}
        />{/if}
      <label class="col-span-12 flex items-center gap-2 text-sm"
        ><input type="checkbox" bind:checked={required} />It must be filled before a load is booked</label
      >
      <div class="col-span-12"><Button look="main" small type="submit" busy={attempt.busy}>Add the field</Button></div>
    </form>
  {/if}
</div>
