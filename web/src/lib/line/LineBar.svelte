<script lang="ts">
  import { takesText } from '$ui/keys';
  import { goto } from '$app/navigation';
  import { api, take, type Schemas } from '$lib/api/client';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import Key from '$ui/Key.svelte';

  type Answer = Schemas['LineAnswer'];
  let typed = $state('');
  let answer = $state<Answer | null>(null);
  let at = $state(0);
  let here = $state(false);
  let field: HTMLInputElement;
  let leaving: ReturnType<typeof setTimeout>;
  let turn = 0;
  /** The unlikely action on which Enter was pressed once; a second Enter records it. */
  let doubted = $state('');
  let timer: ReturnType<typeof setTimeout>;

  type Choice = { kind: 'do'; action: Schemas['LineAction'] } | { kind: 'open'; found: Schemas['Found'] };
  const choices = $derived<Choice[]>([
    ...(answer?.actions ?? []).map((action) => ({ kind: 'do' as const, action })),
    ...(answer?.found ?? []).slice(0, 8).map((found) => ({ kind: 'open' as const, found })),
  ]);

  function ask() {
    clearTimeout(timer);
    doubted = '';
    const mine = ++turn;
    const q = typed.trim();
    if (!q) {
      answer = null;
      return;
    }
    timer = setTimeout(async () => {
      const { data } = await api.GET('/api/line', { params: { query: { q } } }).catch(() => ({ data: undefined }));
      if (mine === turn && data) {
        answer = data;
        at = 0;
      }
    }, 80);
  }
  function close() {
    typed = '';
    answer = null;
    turn++;
    field.blur();
  }
  async function choose(choice: Choice | undefined) {
    if (!choice) return;
    if (choice.kind === 'open') {
      close();
      const { kind, id } = choice.found;
      await goto(
        kind === 'load'
          ? `/load/${id}`
          : kind === 'invoice'
            ? `/bill?invoice=${id}`
            : kind === 'company'
              ? `/setup?company=${id}`
              : `/setup?tab=${kind === 'driver' ? 'fleet' : 'places'}`,
      );
      return;
    }
    const a = choice.action;
    if (a.problem) return;
    if (a.doubt && doubted !== a.title) {
      doubted = a.title;
      return;
    }
    close();
    const path = { id: a.loadId };
    const headers = { 'Lark-Via': 'line' };
    const undo: (() => Promise<unknown>)[] = [];
    try {
      if (a.event && a.stopId) {
        const stopId = a.stopId;
        await take(
          api.POST('/api/loads/{id}/stops/{stopId}', {
            params: { path: { ...path, stopId } },
            body: { event: a.event, at: a.at, receivedBy: a.receivedBy, seal: a.seal },
            headers,
          }),
        );
        undo.unshift(() =>
          take(api.POST('/api/loads/{id}/stops/{stopId}/undo', { params: { path: { ...path, stopId } } })),
        );
      }
      if (a.report) {
        const done = await take(api.POST('/api/loads/{id}/reports', { params: { path }, body: a.report, headers }));
        undo.unshift(() =>
          take(
            api.POST('/api/loads/{id}/reports/{reportId}/undo', {
              params: { path: { ...path, reportId: done.id } },
            }),
          ),
        );
      }
      showDone(`${a.title}.`, async () => {
        for (const back of undo) await back();
      });
    } catch (e) {
      showError(e);
    }
  }
  function windowKey(e: KeyboardEvent) {
    const target = e.target as HTMLElement;
    const typing = takesText(target);
    if ((e.key === '/' && !typing) || (e.key.toLowerCase() === 'k' && (e.ctrlKey || e.metaKey))) {
      e.preventDefault();
      field.focus();
      field.select();
    }
  }
  async function key(e: KeyboardEvent) {
    if (e.key === 'Escape') {
      e.preventDefault();
      close();
    } else if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
      e.preventDefault();
      at = Math.max(0, Math.min(choices.length - 1, at + (e.key === 'ArrowDown' ? 1 : -1)));
    } else if (e.key === 'Enter') {
      e.preventDefault();
      if (!answer) return;
      await choose(choices[at]);
    }
  }
  const kinds: Record<string, string> = {
    company: 'company',
    driver: 'driver',
    invoice: 'invoice',
    place: 'place',
    load: '',
  };
</script>

<svelte:window onkeydown={windowKey} />
<div class="relative min-w-0 flex-1">
  <div class="flex items-center gap-2.5">
    <Key>/</Key>
    <input
      bind:this={field}
      bind:value={typed}
      oninput={ask}
      onkeydown={key}
      onfocus={() => {
        clearTimeout(leaving);
        here = true;
      }}
      onblur={() => (leaving = setTimeout(() => (here = false), 150))}
      class="h-9 w-full bg-transparent text-base focus:outline-none"
      placeholder={session.may('loads.roll')
        ? 'Type what you hear: a number, a name, a town, or “2041 left 0940”'
        : 'Search: a number, a name, a town, any word'}
      aria-label="The line: type what you hear"
      role="combobox"
      aria-expanded={here && !!answer}
      aria-controls="line-answers"
      aria-activedescendant={here && choices.length ? `line-${at}` : undefined}
      autocomplete="off"
      spellcheck="false"
      maxlength="300"
    />
  </div>
  {#if here && answer}
    <div
      id="line-answers"
      role="listbox"
      aria-label="Results"
      class="border-line bg-panel border-t-lark absolute top-[43px] left-0 z-40 w-[680px] max-w-full rounded-b-lg border border-t-2 py-2 shadow-lg"
    >
      {#each choices as choice, i (i)}
        {#if choice.kind === 'open' && (i === 0 || choices[i - 1].kind === 'do')}
          <p class="text-mute px-4 pt-1.5 pb-0.5 text-sm" role="presentation">{i === 0 ? 'Open' : 'Or open'}</p>
        {/if}
        <!-- svelte-ignore a11y_click_events_have_key_events -- keys are handled in the field, which keeps the focus -->
        <div
          id="line-{i}"
          role="option"
          tabindex="-1"
          aria-selected={i === at}
          class="flex cursor-pointer items-center justify-between gap-3 px-4 {choice.kind === 'do'
            ? 'py-2'
            : 'py-1'} {i === at ? 'bg-lark-tint' : 'hover:bg-faint'}"
          onmousedown={(e) => e.preventDefault()}
          onclick={() => choose(choice)}
        >
          {#if choice.kind === 'do'}
            <div class="min-w-0">
              <p class="truncate font-bold">{choice.action.title}</p>
              <p class="text-mute truncate text-sm">{choice.action.detail}</p>
              {#if choice.action.doubt}<p class="text-ember-word text-sm" role="alert">
                  {choice.action.doubt}
                  {#if doubted === choice.action.title}<span class="font-bold"
                      >Press Enter again to record it anyway.</span
                    >{/if}
                </p>{/if}
              {#if choice.action.problem}<p class="text-ember-word text-sm">{choice.action.problem}</p>{/if}
            </div>
            {#if !choice.action.problem}<Button look={i === at ? 'main' : 'plain'} small tabindex={-1}
                >{choice.action.button} {i === at ? '⏎' : ''}</Button
              >{/if}
          {:else}
            <p class="truncate">
              <span class="font-bold">{choice.found.title}</span>
              <span class="text-mute ml-1.5 text-sm">{choice.found.subtitle}</span>
            </p>
            <span class="text-mute shrink-0 text-sm">{kinds[choice.found.kind]}</span>
          {/if}
        </div>
      {/each}
      {#if choices.length === 0}
        <p class="text-mute px-4 py-1">No results. Try fewer words.</p>
      {/if}
    </div>
  {/if}
</div>
