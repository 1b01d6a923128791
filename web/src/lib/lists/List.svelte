<script lang="ts">
  import type { Snippet } from 'svelte';
  import { call, type Schemas } from '$lib/api/client';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import Key from '$ui/Key.svelte';
  import { isPlain } from '$ui/keys';
  import Columns from './Columns.svelte';
  import Filters from './Filters.svelte';
  import Grid from './Grid.svelte';
  import Groups from './Groups.svelte';
  import Printed from './Printed.svelte';
  import Views from './Views.svelte';
  import { fitted, queryOf, topics, type Column, type ListName, type Row, type Shape } from './list';
  import { ListRows, readRows } from './rows.svelte';

  /**
   * A list of any length: rows are read as they scroll into view, sums by the database. Filters, groups, columns, order, views, bulk
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

  type Panel = '' | 'filters' | 'groups' | 'columns';
  let about = $state<Schemas['ListDescription'] | null>(null);
  let shape = $state<Shape>({ text: '', filters: [], sorts: [], groups: [], columns: [], dense: true });
  let panel = $state<Panel>('');
  let chosen = $state.raw(new Set<number>());
  let chosenTotals = $state.raw<Schemas['ListSums'] | null>(null);
  let scroller = $state<HTMLElement>();
  let field = $state<HTMLInputElement>();
  let printing = $state.raw<Row[]>([]);
  const rows = new ListRows(() => list);

  const columns = $derived<Column[]>(
    shape.columns.map((id) => about?.columns.find((c) => c.id === id)).filter((c): c is Column => !!c),
  );
  const query = $derived(queryOf(shape));
  /** Ratios need the columns they are made of; the server sums by column. */
  const asked = $derived(columns.map((c) => c.id));

  const describe = () => call<Schemas['ListDescription']>(`/api/lists/${list}`);
  $effect(() => {
    const name = list;
    about = null;
    describe()
      .then((d) => {
        const kept = sessionStorage.getItem(`lark-list-${name}`);
        const usual: Shape = {
          text: '',
          filters: [],
          sorts: [{ column: d.first.column!, descending: d.first.descending }],
          groups: [],
          columns: d.columns.filter((c) => c.shown).map((c) => c.id),
          dense: true,
        };
        shape = fitted(kept ? { ...usual, ...(JSON.parse(kept) as Shape) } : usual, d.columns);
        about = d;
      })
      .catch(showError);
  });
  $effect(() => {
    if (!about) return;
    sessionStorage.setItem(`lark-list-${list}`, JSON.stringify(shape));
    rows.ask($state.snapshot(query), [...asked], 120);
  });
  // A burst of events causes one request; nothing on screen flickers.
  $effect(() => live.follow(() => rows.ask($state.snapshot(query), [...asked], 1500), topics[list]));
  $effect(() => {
    const only = [...chosen];
    chosenTotals = null;
    if (only.length < 2) return;
    call<Schemas['ListTotals']>(`/api/lists/${list}/totals`, {
      query: { ...queryOf(shape, only), groups: [] },
      columns: asked,
    })
      .then((t) => {
        if (chosen.size === only.length) chosenTotals = t.all;
      })
      .catch(() => (chosenTotals = null));
  });

  function windowKey(e: KeyboardEvent) {
    if (e.key !== 'f' || !isPlain(e)) return;
    e.preventDefault();
    field?.focus();
    field?.select();
  }
  const selected = () => queryOf(shape, chosen.size > 0 ? [...chosen] : null);

  async function exportAs(format: 'csv' | 'xlsx') {
    try {
      const body = { query: selected(), columns: shape.columns, format };
      const file = await call<Blob>(`/api/lists/${list}/export`, body);
      const link = document.createElement('a');
      link.href = URL.createObjectURL(file);
      link.download = `${list}.${format}`;
      link.click();
      setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
      showDone(`${(chosen.size || rows.count).toLocaleString('en-US')} rows exported as ${format.toUpperCase()}.`);
    } catch (e) {
      showError(e);
    }
  }
  async function print() {
    const all: Row[] = [];
    try {
      for (let from = 0; from < Math.min(2000, chosen.size || rows.count); from += 500) {
        all.push(...(await readRows(list, selected(), shape.columns, from, 500)).rows);
      }
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
  const tool = 'border-line bg-panel hover:bg-faint h-8 rounded-md border px-2 text-sm';
</script>

<svelte:window onkeydown={windowKey} />

{#snippet opens(name: Panel, label: string, n: number)}
  <button class={tool} aria-expanded={panel === name} onclick={() => (panel = panel === name ? '' : name)}
    >{label}{n ? ` ${n}` : ''}</button
  >
{/snippet}

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
    {@render opens('filters', 'Filters', shape.filters.length)}
    {@render opens('groups', 'Groups', shape.groups.length)}
    {@render opens('columns', 'Columns', 0)}
    <button class={tool} onclick={() => (shape.dense = !shape.dense)}
      >{shape.dense ? 'Comfortable rows' : 'Compact rows'}</button
    >
    {#if about}
      <Views
        {about}
        bind:shape
        {tool}
        onchanged={async () => {
          about = await describe();
        }}
      />
    {/if}
    <span class="ml-auto flex items-center gap-2">
      <button class={tool} onclick={() => exportAs('csv')}>CSV</button>
      <button class={tool} onclick={() => exportAs('xlsx')}>XLSX</button>
      <button class={tool} onclick={print}>Print</button>
    </span>
  </div>
  {#if panel === 'filters' && about}<Filters {about} bind:filters={shape.filters} />{/if}
  {#if panel === 'groups' && about}<Groups {about} bind:groups={shape.groups} />{/if}
  {#if panel === 'columns' && about}<Columns {about} bind:columns={shape.columns} />{/if}
  {#if rows.problem}<p class="text-ember-word px-5 pb-2 text-sm" role="alert">{rows.problem}</p>{/if}
  {#if chosen.size > 0}
    <div class="bg-lark-tint flex items-center gap-3 px-5 py-1.5 text-sm" role="status">
      <b>{chosen.size.toLocaleString('en-US')} selected</b>
      {@render actions?.([...chosen], () => (chosen = new Set()))}
      <button class="text-lark hover:underline" onclick={() => (chosen = new Set())}>Clear selection</button>
    </div>
  {/if}
  <Grid
    title={about?.title ?? ''}
    {rows}
    bind:shape
    {columns}
    all={about?.columns ?? []}
    {open}
    {onopen}
    bind:chosen
    {chosenTotals}
    bind:element={scroller}
  />
  <p class="text-mute border-line border-t px-5 py-1 text-sm">
    {rows.count.toLocaleString('en-US')} rows{#if rows.count}<span class="mx-2">·</span><Key>Space</Key> selects,
      <Key>Shift ↓</Key> more, <Key>Enter</Key>
      {shape.groups.length ? 'opens a group or row' : 'opens'}{/if}
  </p>
</div>
{#if printing.length > 0}<Printed title={about?.title ?? ''} count={rows.count} {columns} rows={printing} />{/if}
