<script lang="ts">
  import type { Snippet } from 'svelte';
  import { call, Refused, type Schemas } from '$lib/api/client';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import Key from '$ui/Key.svelte';
  import { isPlain } from '$ui/keys';
  import ArrowDown from '@lucide/svelte/icons/arrow-down';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import Columns from './Columns.svelte';
  import Filters from './Filters.svelte';
  import {
    topics,
    inWindow,
    numeric,
    formatCell,
    widthOf,
    type Column,
    type ListName,
    type Row,
    type Shape,
  } from './list';

  /**
   * A list of any length: the keys of all rows are loaded first, rows as they scroll into view. Filters, columns, order, views, bulk
   * actions, export and print, all by keyboard.
   */
  interface Props {
    list: ListName;
    open?: number | null;
    onopen: (id: number) => void;
    /** Actions on the selected rows. */
    actions?: Snippet<[number[], () => void]>;
  }
  let { list, open = null, onopen, actions }: Props = $props();

  let about = $state<Schemas['ListDescription'] | null>(null);
  let shape = $state<Shape>({ text: '', filters: [], sorts: [], columns: [], dense: true });
  let keys = $state.raw<number[]>([]);
  let rows = $state.raw(new Map<number, Row>());
  let problem = $state('');
  let loading = $state(true);
  let panel = $state<'' | 'filters' | 'columns'>('');
  let viewName = $state('');
  let naming = $state(false);
  let at = $state(0);
  let chosen = $state.raw(new Set<number>());
  let anchor = 0;
  let top = $state(0);
  let height = $state(600);
  let scroller = $state<HTMLElement>();
  let field = $state<HTMLInputElement>();
  let printing = $state.raw<Row[]>([]);

  const rowHeight = $derived(shape.dense ? 30 : 44);
  const columns = $derived<Column[]>(
    shape.columns.map((id) => about?.columns.find((c) => c.id === id)).filter((c): c is Column => !!c),
  );
  const template = $derived(`28px ${columns.map(widthOf).join(' ')}`);
  const span = $derived(inWindow(top, height, rowHeight, keys.length));
  const query = $derived({
    text: shape.text.trim() || null,
    filters: shape.filters
      .filter((f) => f.column && (f.value || f.op === 'empty' || f.op === 'filled'))
      .map((f) => ({ ...f, value: f.value || null })),
    sorts: shape.sorts,
  });

  $effect(() => {
    const name = list;
    about = null;
    rows = new Map();
    call<Schemas['ListDescription']>(`/api/lists/${name}`)
      .then((d) => {
        const kept = sessionStorage.getItem(`lark-list-${name}`);
        const usual: Shape = {
          text: '',
          filters: [],
          sorts: [{ column: d.first.column!, descending: d.first.descending }],
          columns: d.columns.filter((c) => c.shown).map((c) => c.id),
          dense: true,
        };
        shape = kept ? { ...usual, ...(JSON.parse(kept) as Shape) } : usual;
        about = d;
      })
      .catch(showError);
  });

  let asked = 0;
  let timer: ReturnType<typeof setTimeout>;
  function ask(wait: number) {
    clearTimeout(timer);
    timer = setTimeout(async () => {
      const turn = ++asked;
      const here = keys[at];
      try {
        const answer = await call<Schemas['ListKeys']>(`/api/lists/${list}/keys`, query);
        if (turn !== asked) return;
        keys = answer.keys;
        problem = '';
        at = Math.max(0, keys.indexOf(here));
      } catch (e) {
        if (turn === asked) problem = e instanceof Refused ? e.message : 'The list could not be loaded.';
      } finally {
        if (turn === asked) loading = false;
      }
    }, wait);
  }
  $effect(() => {
    if (!about) return;
    void JSON.stringify(query);
    sessionStorage.setItem(`lark-list-${list}`, JSON.stringify(shape));
    ask(120);
  });
  $effect(() =>
    live.follow(() => {
      rows = new Map();
      // A burst of events causes one request; nothing on screen flickers.
      ask(1500);
    }, topics[list]),
  );

  // Rows in view are loaded; loaded rows are kept.
  let reading = $state(false);
  $effect(() => {
    const wanted = shape.columns;
    const missing = keys.slice(...span).filter((id) => !rows.has(id));
    if (!about || missing.length === 0 || reading) return;
    reading = true;
    call<Row[]>(`/api/lists/${list}/rows`, { keys: missing.slice(0, 300), columns: wanted })
      .then((read) => {
        const next = new Map(rows);
        for (const row of read) next.set(row.id, row);
        // A row that was deleted is not requested forever.
        for (const id of missing.slice(0, 300)) if (!next.has(id)) next.set(id, { id });
        rows = next;
      })
      .catch(showError)
      .finally(() => {
        top = scroller?.scrollTop ?? 0;
        reading = false;
      });
  });
  let shownColumns = '';
  $effect(() => {
    const now = shape.columns.join();
    if (shownColumns && now !== shownColumns) rows = new Map();
    shownColumns = now;
  });

  function sortBy(c: Column, add: boolean) {
    const was = shape.sorts.find((s) => s.column === c.id);
    const next = { column: c.id, descending: was ? !was.descending : numeric(c) };
    shape.sorts = add ? [...shape.sorts.filter((s) => s.column !== c.id), next].slice(-4) : [next];
  }
  function goTo(index: number, extend: boolean) {
    const next = Math.max(0, Math.min(keys.length - 1, index));
    if (extend) {
      const [a, b] = [Math.min(anchor, next), Math.max(anchor, next)];
      chosen = new Set(keys.slice(a, b + 1));
    } else anchor = next;
    at = next;
    if (!scroller) return;
    const y = next * rowHeight;
    if (y < scroller.scrollTop) scroller.scrollTop = y;
    else if (y + rowHeight > scroller.scrollTop + scroller.clientHeight)
      scroller.scrollTop = y + rowHeight - scroller.clientHeight;
  }
  function choose(index: number) {
    const next = new Set(chosen);
    if (!next.delete(keys[index])) next.add(keys[index]);
    chosen = next;
    anchor = index;
  }
  function key(e: KeyboardEvent) {
    // Header buttons keep their own keys.
    if (e.target !== scroller) return;
    const page = Math.max(1, Math.floor(height / rowHeight) - 1);
    const step: Record<string, number> = {
      ArrowDown: 1,
      j: 1,
      ArrowUp: -1,
      k: -1,
      PageDown: page,
      PageUp: -page,
      Home: -keys.length,
      End: keys.length,
    };
    if (e.key === 'a' && (e.ctrlKey || e.metaKey)) chosen = new Set(keys);
    else if (e.ctrlKey || e.metaKey || e.altKey) return;
    else if (e.key in step || e.key.toLowerCase() in step)
      goTo(at + (step[e.key] ?? step[e.key.toLowerCase()]), e.shiftKey);
    else if (e.key === 'Enter' && keys[at] !== undefined) onopen(keys[at]);
    else if (e.key === ' ' || e.key === 'x') choose(at);
    else if (e.key === 'Escape' && chosen.size > 0) chosen = new Set();
    else return;
    e.preventDefault();
  }
  function windowKey(e: KeyboardEvent) {
    if (e.key !== 'f' || !isPlain(e)) return;
    e.preventDefault();
    field?.focus();
    field?.select();
  }

  async function exportAs(format: 'csv' | 'xlsx') {
    try {
      const file = await call<Blob>(`/api/lists/${list}/export`, {
        ...query,
        columns: shape.columns,
        keys: chosen.size > 0 ? [...chosen] : null,
        format,
      });
      const link = document.createElement('a');
      link.href = URL.createObjectURL(file);
      link.download = `${list}.${format}`;
      link.click();
      setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
      showDone(`${(chosen.size || keys.length).toLocaleString('en-US')} rows exported as ${format.toUpperCase()}.`);
    } catch (e) {
      showError(e);
    }
  }
  async function print() {
    const wanted = (chosen.size > 0 ? keys.filter((k) => chosen.has(k)) : keys).slice(0, 2000);
    const all: Row[] = [];
    try {
      for (let i = 0; i < wanted.length; i += 500)
        all.push(
          ...(await call<Row[]>(`/api/lists/${list}/rows`, {
            keys: wanted.slice(i, i + 500),
            columns: shape.columns,
          })),
        );
    } catch (e) {
      showError(e);
      return;
    }
    printing = all;
    setTimeout(() => {
      window.print();
      printing = [];
    }, 100);
  }
  async function saveView() {
    try {
      const name = viewName.trim();
      await call(`/api/lists/${list}/views`, { name, definition: $state.snapshot(shape) });
      about = await call<Schemas['ListDescription']>(`/api/lists/${list}`);
      showDone(`View “${name}” saved.`);
      naming = false;
      viewName = '';
    } catch (e) {
      showError(e);
    }
  }
  function useView(id: string) {
    const view = about?.views.find((v) => String(v.id) === id);
    if (view) shape = { ...shape, ...(view.definition as unknown as Shape) };
  }
  const tool = 'border-line bg-panel hover:bg-faint h-8 rounded-md border px-2 text-sm';
</script>

<svelte:window onkeydown={windowKey} />

<div class="flex h-full min-h-0 flex-col print:hidden">
  <div class="flex flex-wrap items-center gap-2 px-5 pt-3 pb-2">
    <input
      bind:this={field}
      bind:value={shape.text}
      class="border-line bg-panel h-8 w-56 rounded-md border px-2 text-sm"
      placeholder="Filter"
      aria-label="Filter"
      onkeydown={(e) => {
        if (e.key === 'ArrowDown' || e.key === 'Enter') {
          e.preventDefault();
          scroller?.focus();
        }
      }}
    />
    <Key>f</Key>
    <button
      class={tool}
      aria-expanded={panel === 'filters'}
      onclick={() => (panel = panel === 'filters' ? '' : 'filters')}
      >Filters{shape.filters.length ? ` ${shape.filters.length}` : ''}</button
    >
    <button
      class={tool}
      aria-expanded={panel === 'columns'}
      onclick={() => (panel = panel === 'columns' ? '' : 'columns')}>Columns</button
    >
    <button class={tool} onclick={() => (shape.dense = !shape.dense)}
      >{shape.dense ? 'Comfortable rows' : 'Compact rows'}</button
    >
    {#if about && about.views.length > 0}
      <select class={tool} aria-label="My views" onchange={(e) => useView(e.currentTarget.value)}>
        <option value="">My views</option>
        {#each about.views as view (view.id)}<option value={view.id}>{view.name}</option>{/each}
      </select>
    {/if}
    {#if naming}
      <input class="{tool} w-36" bind:value={viewName} maxlength="60" placeholder="View name" aria-label="View name" />
      <Button small disabled={!viewName.trim()} onclick={saveView}>Save</Button>
    {:else}
      <button class={tool} onclick={() => (naming = true)}>Save view</button>
    {/if}
    <span class="ml-auto flex items-center gap-2">
      <button class={tool} onclick={() => exportAs('csv')}>CSV</button>
      <button class={tool} onclick={() => exportAs('xlsx')}>XLSX</button>
      <button class={tool} onclick={print}>Print</button>
    </span>
  </div>
  {#if panel === 'filters' && about}<Filters {about} bind:filters={shape.filters} />{/if}
  {#if panel === 'columns' && about}<Columns {about} bind:columns={shape.columns} />{/if}
  {#if problem}<p class="text-ember-word px-5 pb-2 text-sm" role="alert">{problem}</p>{/if}
  {#if chosen.size > 0}
    <div class="bg-lark-tint flex items-center gap-3 px-5 py-1.5 text-sm" role="status">
      <b>{chosen.size.toLocaleString('en-US')} selected</b>
      {@render actions?.([...chosen], () => (chosen = new Set()))}
      <button class="text-lark hover:underline" onclick={() => (chosen = new Set())}>Clear selection</button>
    </div>
  {/if}
  <!-- Header and rows share one scroller, so that wide lists move together. -->
  <div
    bind:this={scroller}
    bind:clientHeight={height}
    class="focus-visible:outline-lark min-h-0 flex-1 overflow-auto outline-offset-[-2px]"
    role="grid"
    tabindex="0"
    aria-label="{about?.title ?? ''}, {keys.length} rows"
    aria-rowcount={keys.length + 1}
    aria-multiselectable="true"
    aria-activedescendant={keys.length ? `row-${keys[at]}` : undefined}
    onscroll={(e) => (top = e.currentTarget.scrollTop)}
    onkeydown={key}
  >
    <div class="min-w-full" style:width="max-content" style:--columns={template}>
      <div
        role="row"
        aria-rowindex="1"
        class="border-line bg-paper text-mute sticky top-0 z-10 grid min-w-full items-center gap-x-3 border-b px-5 text-sm"
        style:grid-template-columns={template}
      >
        <span role="columnheader" class="py-1"><span class="sr-only">Selected</span></span>
        {#each columns as c (c.id)}
          {@const sort = shape.sorts.find((s) => s.column === c.id)}
          <span
            role="columnheader"
            aria-sort={sort ? (sort.descending ? 'descending' : 'ascending') : 'none'}
            class={numeric(c) ? 'text-right' : ''}
          >
            <button
              class="hover:text-ink inline-flex items-center gap-0.5 py-1 {sort ? 'text-ink font-bold' : ''}"
              title="Sort by this column; Shift-click to add it to the sort"
              onclick={(e) => sortBy(c, e.shiftKey)}
              >{c.title}{#if sort}{#if sort.descending}<ArrowDown size={12} />{:else}<ArrowUp
                    size={12}
                  />{/if}{/if}</button
            >
          </span>
        {/each}
      </div>
      <div class="relative" style:height="{keys.length * rowHeight}px">
        {#each keys.slice(...span) as id, i (id)}
          {@const index = span[0] + i}
          {@const row = rows.get(id)}
          <!-- svelte-ignore a11y_click_events_have_key_events, a11y_interactive_supports_focus -- the grid itself has the focus and the keys -->
          <div
            id="row-{id}"
            role="row"
            aria-rowindex={index + 2}
            aria-selected={chosen.has(id)}
            class="border-line absolute right-0 left-0 grid cursor-pointer items-center gap-x-3 border-b px-5 {id ===
            open
              ? 'bg-lark-tint'
              : chosen.has(id)
                ? 'bg-lark-tint/60'
                : 'hover:bg-faint/60'} {index === at ? 'inset-ring-lark inset-ring-1' : ''}"
            style:top="{index * rowHeight}px"
            style:height="{rowHeight}px"
            style:grid-template-columns={template}
            onclick={(e) => {
              if (e.shiftKey) goTo(index, true);
              else if (e.ctrlKey || e.metaKey) {
                at = index;
                choose(index);
              } else {
                goTo(index, false);
                onopen(id);
              }
            }}
          >
            <span role="gridcell"
              ><input
                type="checkbox"
                tabindex="-1"
                aria-label="Select this row"
                checked={chosen.has(id)}
                onclick={(e) => {
                  e.stopPropagation();
                  at = index;
                  if (e.shiftKey) goTo(index, true);
                  else choose(index);
                }}
              /></span
            >
            {#each columns as c, n (c.id)}
              <span
                role="gridcell"
                class="truncate {numeric(c) ? 'fig text-right' : ''} {n === 0 ? 'font-bold' : ''} {c.kind === 'time' ||
                c.kind === 'date'
                  ? 'text-sm'
                  : ''}"
                title={row && c.kind === 'text' ? formatCell(row[c.id], c) : undefined}
                >{row ? formatCell(row[c.id], c) : n === 0 ? '…' : ''}</span
              >
            {/each}
          </div>
        {/each}
      </div>
      {#if keys.length === 0}
        <p class="text-mute px-5 py-6">
          {loading ? 'Loading …' : 'No rows match. Remove a filter or use fewer words.'}
        </p>
      {/if}
    </div>
  </div>
  <p class="text-mute border-line border-t px-5 py-1 text-sm">
    {keys.length.toLocaleString('en-US')} rows{#if keys.length}<span class="mx-2">·</span><Key>Space</Key> selects,
      <Key>Shift ↓</Key> more, <Key>Enter</Key> opens{/if}
  </p>
</div>
{#if printing.length > 0}
  <table class="hidden w-full text-[11px] print:table">
    <caption class="text-left font-bold">{about?.title}, {printing.length} of {keys.length} rows</caption>
    <thead>
      <tr
        >{#each columns as c (c.id)}<th class={numeric(c) ? 'text-right' : 'text-left'}>{c.title}</th>{/each}</tr
      >
    </thead>
    <tbody>
      {#each printing as row (row.id)}
        <tr class="border-line border-b"
          >{#each columns as c (c.id)}<td class={numeric(c) ? 'text-right' : ''}>{formatCell(row[c.id], c)}</td
            >{/each}</tr
        >
      {/each}
    </tbody>
  </table>
{/if}
