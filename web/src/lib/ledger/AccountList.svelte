<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import TextField from '$ui/TextField.svelte';
  import { chart } from './accounts.svelte';

  /** The chart of accounts. */
  const kinds = [
    { value: 'expense', label: 'expense' },
    { value: 'income', label: 'income' },
    { value: 'asset', label: 'asset' },
    { value: 'liability', label: 'liability' },
    { value: 'equity', label: 'equity' },
  ];
  let code = $state('');
  let name = $state('');
  let kind = $state('expense');
  let parent = $state('');
  const attempt = new Attempt();
  $effect(() => void chart.read().catch(showError));
  const parents = $derived([
    { value: '', label: 'none' },
    ...chart.all.filter((a) => a.kind === kind).map((a) => ({ value: a.code, label: `${a.code} ${a.name}` })),
  ]);
  const add = () =>
    attempt.run(async () => {
      const made = await take(
        api.POST('/api/accounts', {
          body: { code, name, kind: kind as Schemas['AccountKind'], parent: parent || null },
        }),
      );
      showDone(`Account ${made.code} ${made.name} added.`);
      code = name = '';
      await chart.read();
    });
  async function change(a: Schemas['Account'], retired: boolean) {
    try {
      await take(
        api.PUT('/api/accounts/{code}', {
          params: { path: { code: a.code } },
          body: { name: a.name, inactive: retired },
        }),
      );
      showDone(retired ? `${a.name} deactivated.` : `${a.name} reactivated.`);
      await chart.read();
    } catch (e) {
      showError(e);
    }
  }
</script>

<p class="mb-3 text-sm">
  Canadian dollars: <a class="text-lark font-bold underline" href="/ledger?tab=rates">exchange rates</a>.
</p>
{#if session.may('ledger.post')}<p class="mb-3 text-sm">
    Books that come from another system: <a class="text-lark font-bold underline" href="/ledger?tab=opening"
      >enter opening balances</a
    >.
  </p>{/if}
<ul class="max-w-3xl">
  {#each chart.all as a (a.code)}
    <li class="border-line flex min-h-[30px] items-center gap-3 border-b {a.inactive ? 'text-mute' : ''}">
      <span class="fig w-14 {a.parent ? 'pl-3' : ''}">{a.code}</span>
      <a
        class="min-w-0 flex-1 truncate hover:underline {a.parent ? 'pl-3' : 'font-bold'}"
        href="/ledger?tab=lines&account={a.code}">{a.name}</a
      >
      <span class="text-mute w-44 truncate text-sm">{a.kind}{a.parent ? `, under ${chart.name(a.parent)}` : ''}</span>
      <span class="w-32 text-right"
        >{#if a.needed}<span class="text-mute text-sm">required</span>{:else if session.may('ledger.post')}<button
            class="text-lark text-sm hover:underline"
            onclick={() => change(a, !a.inactive)}>{a.inactive ? 'Reactivate' : 'Deactivate'}</button
          >{/if}</span
      >
    </li>
  {/each}
</ul>
{#if session.may('ledger.post')}
  <form
    class="border-line bg-panel mt-4 grid max-w-3xl grid-cols-12 gap-2 rounded-md border p-3"
    aria-label="New account"
    onsubmit={(e) => {
      e.preventDefault();
      void add();
    }}
  >
    <TextField
      class="col-span-2"
      label="Number"
      required
      bind:value={code}
      maxlength={4}
      inputmode="numeric"
      problem={attempt.at('code')}
      placeholder="5210"
    />
    <TextField class="col-span-4" label="Name" required bind:value={name} maxlength={60} problem={attempt.at('name')} />
    <Choice class="col-span-2" label="Type" bind:value={kind} options={kinds} problem={attempt.at('kind')} />
    <Choice
      class="col-span-4"
      label="Parent account"
      bind:value={parent}
      options={parents}
      problem={attempt.at('parent')}
    />
    <div class="col-span-12"><Button look="main" small type="submit" busy={attempt.busy}>Add account</Button></div>
  </form>
{/if}
