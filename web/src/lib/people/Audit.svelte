<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatLocal, localAt } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import DateField from '$ui/DateField.svelte';
  import TextField from '$ui/TextField.svelte';

  /** Who did what, when and from where. */
  let rows = $state<Schemas['AuditRow'][] | null>(null);
  let users = $state<{ value: string; label: string }[]>([]);
  let user = $state('');
  let text = $state('');
  let number = $state('');
  let from = $state('');
  let until = $state('');
  let open = $state<number | null>(null);
  let more = $state(false);

  async function search(beforeId?: number) {
    try {
      const found = await take(
        api.GET('/api/audit', {
          params: {
            query: {
              userId: Number(user) || undefined,
              text: text.trim() || undefined,
              load: number.trim() || undefined,
              from: from || undefined,
              until: until || undefined,
              beforeId,
            },
          },
        }),
      );
      more = found.length === 100;
      rows = beforeId ? [...(rows ?? []), ...found] : found;
    } catch (e) {
      showError(e);
    }
  }
  $effect(() => {
    void [user, text, number, from, until];
    const wait = setTimeout(() => void search(), 250);
    return () => clearTimeout(wait);
  });
  $effect(() => {
    if (session.may('users.edit'))
      void take(api.GET('/api/users'))
        .then((all) => (users = all.map((u) => ({ value: String(u.id), label: u.name }))))
        .catch(showError);
  });
  const pretty = (json: string | null | undefined) => (json ? JSON.stringify(JSON.parse(json), null, 1) : '');
</script>

<div class="px-5 pb-8">
  <div class="mb-3 grid max-w-5xl grid-cols-[1fr_1.4fr_8rem_9.5rem_9.5rem] gap-3">
    <Choice label="Person" bind:value={user} options={[{ value: '', label: 'Anyone' }, ...users]} />
    <TextField label="Text" bind:value={text} placeholder="such as session.failed, or a name" />
    <TextField label="Load" bind:value={number} placeholder="number" />
    <DateField label="From" bind:value={from} />
    <DateField label="Until" bind:value={until} />
  </div>
  <ul aria-label="Audit log">
    {#each rows ?? [] as e (e.id)}
      <li class="border-line border-b">
        <button
          type="button"
          class="hover:bg-faint flex min-h-[30px] w-full items-baseline gap-3 py-1 text-left text-sm"
          aria-expanded={open === e.id}
          onclick={() => (open = open === e.id ? null : e.id)}
        >
          <span class="fig text-mute w-40 shrink-0">{formatLocal(localAt(e.at, session.zone))}</span>
          <span class="w-32 shrink-0 truncate font-bold"
            >{e.who ?? (e.via === 'system' ? 'Steady Lark' : 'Outside')}</span
          >
          <span class="min-w-0 flex-1">{e.summary}</span>
          <span class="text-mute w-44 shrink-0 truncate">{e.kind}</span>
          <span class="text-mute w-28 shrink-0 truncate text-right">{e.address ?? e.via}</span>
        </button>
        {#if open === e.id}
          <div class="grid grid-cols-2 gap-4 pb-3 pl-44 text-sm">
            <p class="text-mute col-span-2">
              Entry {e.id}, {e.subject}
              {e.subjectId}, by {e.via}{e.address ? ` from ${e.address}` : ''};
              {e.sealed ? 'sealed in the chain' : 'not sealed yet'}
            </p>
            {#if e.before || e.after}
              <div>
                <p class="text-mute">Before</p>
                <pre class="fig text-xs whitespace-pre-wrap">{pretty(e.before) || '–'}</pre>
              </div>
              <div>
                <p class="text-mute">After</p>
                <pre class="fig text-xs whitespace-pre-wrap">{pretty(e.after) || '–'}</pre>
              </div>
            {/if}
          </div>
        {/if}
      </li>
    {:else}{#if rows}<li class="text-mute py-2">Nothing matches.</li>{/if}{/each}
  </ul>
  {#if more}<div class="mt-3"><Button small onclick={() => search(rows?.at(-1)?.id)}>Show older</Button></div>{/if}
</div>
