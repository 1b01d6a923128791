<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { showError } from '$lib/state/messages.svelte';
  import { clock } from './clock';

  /** Addresses as they were understood; doubtful ones are chosen, others retyped or skipped. */
  let { list = $bindable() }: { list: Schemas['AddressList'] | null } = $props();
  let only = $state('');
  let known: number | undefined;
  $effect(() => {
    // A new list begins with what has to be corrected.
    const rows = list?.lines.length;
    if (rows !== undefined && known === undefined) only = list!.doubtful + list!.notFound > 0 ? 'wrong' : '';
    known = rows;
  });

  const recount = () => {
    if (!list) return;
    list.found = list.lines.filter((l) => l.found === 'found').length;
    list.doubtful = list.lines.filter((l) => l.found === 'doubtful').length;
    list.notFound = list.lines.filter((l) => l.found === 'not_found').length;
  };
  function choose(line: Schemas['AddressView'], c: Schemas['Candidate']) {
    line.choices = [c];
    line.found = 'found';
    line.why = null;
    recount();
  }
  async function again(line: Schemas['AddressView'], typed: string) {
    if (!typed.trim()) return;
    try {
      const got = await take(api.GET('/api/resolve', { params: { query: { q: typed } } }));
      line.address = typed;
      line.choices = got.candidates;
      line.found =
        got.why === null && got.candidates.length ? 'found' : got.candidates.length ? 'doubtful' : 'not_found';
      line.why = got.why;
      recount();
    } catch (e) {
      showError(e);
    }
  }
  function drop(line: Schemas['AddressView']) {
    list!.lines = list!.lines.filter((l) => l !== line);
    recount();
  }
  const shown = $derived(
    (list?.lines ?? []).filter((l) => (only === 'wrong' ? l.found !== 'found' : true)).slice(0, 300),
  );
</script>

{#if list}
  <div class="flex flex-wrap items-baseline gap-3">
    <p>
      <b class="fig">{list.found}</b> found,
      <b class="fig {list.doubtful ? 'text-marigold-word' : ''}">{list.doubtful}</b>
      doubtful, <b class="fig {list.notFound ? 'text-ember-word' : ''}">{list.notFound}</b> not found
    </p>
    {#if list.doubtful + list.notFound > 0}<button
        class="text-lark text-sm font-bold hover:underline"
        onclick={() => (only = only === 'wrong' ? '' : 'wrong')}
        >{only === 'wrong' ? 'Show all' : 'Show addresses to correct'}</button
      >{/if}
    <button class="text-lark ml-auto text-sm font-bold hover:underline" onclick={() => (list = null)}>Start over</button
    >
  </div>
  <ul class="border-line max-h-[38vh] overflow-y-auto rounded-md border">
    {#each shown as line (line.row)}
      <li class="border-line border-b px-3 py-1.5 text-sm last:border-b-0">
        <div class="flex items-baseline gap-2">
          <span class="fig text-mute w-8 shrink-0 text-right">{line.row}</span>
          <span class="min-w-0 flex-1 truncate"
            ><b>{line.name ?? line.address}</b>{line.name ? ` ${line.address}` : ''}{#if line.found === 'found'}<span
                class="text-mute">, {line.choices[0].label}</span
              >{/if}</span
          >
          <span class="text-mute fig shrink-0"
            >{line.service ? `${line.service} min` : ''}{line.opens !== null || line.closes !== null
              ? ` ${line.opens !== null ? clock(line.opens) : ''}–${line.closes !== null ? clock(line.closes) : ''}`
              : ''}</span
          >
          <button class="text-mute hover:text-ink" aria-label="Skip line {line.row}" onclick={() => drop(line)}
            >skip</button
          >
        </div>
        {#if line.found !== 'found'}
          <p class="pl-10 {line.found === 'doubtful' ? 'text-marigold-word' : 'text-ember-word'}">{line.why}</p>
          <div class="flex flex-wrap gap-1 pl-10">
            {#each line.choices.slice(0, 6) as c (c.label)}<button
                class="border-line bg-panel hover:bg-lark-tint rounded-md border px-2 py-0.5"
                onclick={() => choose(line, c)}>{c.label}</button
              >{/each}
            <input
              class="border-line bg-panel w-56 rounded-md border px-2 py-0.5"
              placeholder="or retype it, Enter"
              aria-label="Retype the address on line {line.row}"
              onkeydown={(e) => {
                if (e.key === 'Enter') void again(line, (e.target as HTMLInputElement).value);
              }}
            />
          </div>
        {/if}
      </li>
    {/each}
  </ul>
  {#if (list.lines.length > 300 && only !== 'wrong') || shown.length === 300}<p class="text-mute text-sm">
      Showing the first 300 lines.
    </p>{/if}
{/if}
