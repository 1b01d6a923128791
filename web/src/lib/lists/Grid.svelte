<script lang="ts">
  import { createVirtualizer } from '@tanstack/svelte-virtual';
  import { untrack } from 'svelte';
  import { get } from 'svelte/store';
  import type { Schemas } from '$lib/api/client';
  import { showError } from '$lib/state/messages.svelte';
  import GridCells from './GridCells.svelte';
  import GridHead from './GridHead.svelte';
  import GridTotals from './GridTotals.svelte';
  import { Layout } from './layout';
  import { formatGroup, mostSelected, widthOf, type Column, type Row, type Shape } from './list';
  import type { ListRows } from './rows.svelte';

  type GroupSums = Schemas['ListGroupSums'];

  /** The rows of a list and the heads of its groups, with sums in the last line; all by keyboard. */
  interface Props {
    title: string;
    rows: ListRows;
    shape: Shape;
    columns: Column[];
    all: Column[];
    open: number | null;
    onopen: (id: number) => void;
    chosen: Set<number>;
    /** The totals of the selected rows, while some are. */
    chosenTotals: Schemas['ListSums'] | null;
    element?: HTMLElement;
  }
  let {
    title,
    rows,
    shape = $bindable(),
    columns,
    all,
    open,
    onopen,
    chosen = $bindable(),
    chosenTotals,
    element = $bindable(),
  }: Props = $props();

  /** Groups that stand otherwise than their level does: outer groups are open at first, innermost ones closed. */
  let turned = $state.raw(new Set<string>());
  let at = $state(0);
  let anchor = 0;

  const rowHeight = $derived(shape.dense ? 30 : 44);
  const template = $derived(`28px ${columns.map(widthOf).join(' ')}`);
  const levels = $derived(shape.groups.length);
  const name = (g: GroupSums) => JSON.stringify(g.values);
  const isOpen = (g: GroupSums) => g.values.length < levels !== turned.has(name(g));
  const layout = $derived(new Layout(rows.count, levels ? rows.totals.groups : [], isOpen));
  const sums = $derived(chosenTotals ?? rows.totals.all);

  const virtualizer = createVirtualizer<HTMLElement, HTMLElement>({
    count: 0,
    getScrollElement: () => element ?? null,
    estimateSize: () => rowHeight,
    overscan: 15,
    scrollPaddingStart: 30,
    scrollPaddingEnd: 30,
  });
  $effect(() => {
    const [count, size] = [layout.length, rowHeight];
    void element;
    untrack(() => {
      get(virtualizer).setOptions({ count, estimateSize: () => size, getScrollElement: () => element ?? null });
      get(virtualizer).measure();
    });
  });
  const items = $derived($virtualizer.getVirtualItems());
  $effect(() => {
    if (items.length === 0) return;
    const span = layout.rowsIn(items[0].index, items[items.length - 1].index + 1);
    if (span) rows.need(...span);
  });
  $effect(() => {
    if (at >= layout.length) at = Math.max(0, layout.length - 1);
  });

  const columnOf = (g: GroupSums) => all.find((c) => c.id === shape.groups[g.values.length - 1]?.column);
  const headOf = (g: GroupSums) => {
    const c = columnOf(g);
    return c ? formatGroup(g.values.at(-1), c, shape.groups[g.values.length - 1].period) : '';
  };
  const idAt = (line: number) => {
    const here = layout.at(line);
    return here && 'row' in here ? rows.row(here.row)?.id : undefined;
  };

  function turn(g: GroupSums) {
    const next = new Set(turned);
    if (!next.delete(name(g))) next.add(name(g));
    turned = next;
  }
  function goTo(line: number, extend: boolean) {
    const next = Math.max(0, Math.min(layout.length - 1, line));
    if (extend) void select(Math.min(anchor, next), Math.max(anchor, next));
    else anchor = next;
    at = next;
    $virtualizer.scrollToIndex(next, { align: 'auto' });
  }
  /** Selects the rows that these lines show. */
  async function select(from: number, until: number) {
    const span = layout.rowsIn(from, Math.min(until, from + mostSelected) + 1);
    chosen = new Set(span ? await keys(span[0], span[1] - span[0]) : []);
  }
  const keys = (from: number, count: number) =>
    rows.keys(from, Math.min(count, mostSelected)).catch((e) => {
      showError(e);
      return [];
    });
  async function choose(line: number) {
    const here = layout.at(line);
    if (!here) return;
    anchor = line;
    const ids = 'row' in here ? await keys(here.row, 1) : await keys(...layout.rowsOf(here.index));
    const next = new Set(chosen);
    const on = !ids.every((id) => next.has(id));
    for (const id of ids)
      if (on) next.add(id);
      else next.delete(id);
    chosen = next;
  }
  function key(e: KeyboardEvent) {
    // Header buttons keep their own keys.
    if (e.target !== element) return;
    const page = Math.max(1, Math.floor((element?.clientHeight ?? 600) / rowHeight) - 2);
    const step: Record<string, number> = {
      ArrowDown: 1,
      j: 1,
      ArrowUp: -1,
      k: -1,
      PageDown: page,
      PageUp: -page,
      Home: -layout.length,
      End: layout.length,
    };
    const here = layout.at(at);
    const group = here && 'group' in here ? here.group : null;
    if (e.key === 'a' && (e.ctrlKey || e.metaKey)) void keys(0, rows.count).then((ids) => (chosen = new Set(ids)));
    else if (e.ctrlKey || e.metaKey || e.altKey) return;
    else if (e.key in step || e.key.toLowerCase() in step)
      goTo(at + (step[e.key] ?? step[e.key.toLowerCase()]), e.shiftKey);
    else if (group && (e.key === 'Enter' || e.key === (isOpen(group) ? 'ArrowLeft' : 'ArrowRight'))) turn(group);
    else if (e.key === 'Enter' && idAt(at) !== undefined) onopen(idAt(at)!);
    else if (e.key === ' ' || e.key === 'x') void choose(at);
    else if (e.key === 'Escape' && chosen.size > 0) chosen = new Set();
    else return;
    e.preventDefault();
  }
  function press(e: MouseEvent, line: number, row: Row | undefined) {
    if (e.shiftKey) goTo(line, true);
    else if (e.ctrlKey || e.metaKey) {
      at = line;
      void choose(line);
    } else {
      goTo(line, false);
      if (row) onopen(row.id);
    }
  }
</script>

<!-- Header, rows and sums share one scroller, so that wide lists move together. -->
<div
  bind:this={element}
  class="focus-visible:outline-lark min-h-0 flex-1 overflow-auto outline-offset-[-2px]"
  role="grid"
  tabindex="0"
  aria-label="{title}, {rows.count} rows"
  aria-rowcount={layout.length + 2}
  aria-multiselectable="true"
  aria-activedescendant={layout.length ? `line-${at}` : undefined}
  onkeydown={key}
>
  <div class="min-w-full" style:width="max-content">
    <GridHead bind:sorts={shape.sorts} {columns} {template} />
    <div class="relative" style:height="{$virtualizer.getTotalSize()}px">
      {#each items as item (item.index)}
        {@const here = layout.at(item.index)}
        {@const row = here && 'row' in here ? rows.row(here.row) : undefined}
        {@const group = here && 'group' in here ? here.group : null}
        <!-- svelte-ignore a11y_click_events_have_key_events, a11y_interactive_supports_focus -- the grid itself has the focus and the keys -->
        <div
          id="line-{item.index}"
          role="row"
          aria-rowindex={item.index + 2}
          aria-selected={!!row && chosen.has(row.id)}
          aria-expanded={group ? isOpen(group) : undefined}
          class="border-line absolute right-0 left-0 grid cursor-pointer items-center gap-x-3 border-b px-5 {row &&
          row.id === open
            ? 'bg-lark-tint'
            : row && chosen.has(row.id)
              ? 'bg-lark-tint/60'
              : group
                ? 'bg-faint/50 hover:bg-faint'
                : 'hover:bg-faint/60'} {item.index === at ? 'inset-ring-lark inset-ring-1' : ''}"
          style:top="{item.start}px"
          style:height="{item.size}px"
          style:grid-template-columns={template}
          onclick={(e) => {
            if (group && !e.shiftKey && !e.ctrlKey && !e.metaKey) {
              goTo(item.index, false);
              turn(group);
            } else press(e, item.index, row);
          }}
        >
          <span role="gridcell"
            ><input
              type="checkbox"
              tabindex="-1"
              aria-label={group ? `Select ${headOf(group)}` : 'Select this row'}
              checked={!!row && chosen.has(row.id)}
              onclick={(e) => {
                e.stopPropagation();
                at = item.index;
                if (e.shiftKey) goTo(item.index, true);
                else void choose(item.index);
              }}
            /></span
          >
          <GridCells
            {columns}
            {row}
            {group}
            open={!!group && isOpen(group)}
            head={group ? headOf(group) : ''}
            indent={levels > 0}
          />
        </div>
      {/each}
    </div>
    {#if rows.count === 0}
      <p class="text-mute px-5 py-6">
        {rows.loading ? 'Loading …' : 'No rows match. Remove a filter or use fewer words.'}
      </p>
    {:else if columns.some((c) => c.total)}
      <div
        role="row"
        aria-rowindex={layout.length + 2}
        class="border-line bg-paper sticky bottom-0 z-10 grid min-h-[30px] min-w-full items-center gap-x-3 border-t px-5"
        style:grid-template-columns={template}
      >
        <span role="gridcell"></span>
        <span role="gridcell" class="text-mute text-sm whitespace-nowrap">{chosenTotals ? 'Selected' : 'Total'}</span>
        <GridTotals {columns} {sums} bold />
      </div>
    {/if}
  </div>
</div>
