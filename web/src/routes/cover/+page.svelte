<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, take, type Schemas } from '$lib/api/client';
  import { latest } from '$lib/api/latest';
  import CoverPanel from '$lib/loads/CoverPanel.svelte';
  import LoadRowView from '$lib/loads/LoadRowView.svelte';
  import LoadSheet from '$lib/loads/LoadSheet.svelte';
  import { statusWidth } from '$lib/loads/labels';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import AxisHead from '$ui/AxisHead.svelte';
  import AxisLines from '$ui/AxisLines.svelte';
  import Head from '$ui/Head.svelte';
  import Sheet from '$ui/Sheet.svelte';
  import Slate from '$ui/Slate.svelte';
  import type { Axis } from '$ui/axis';

  let lines = $state<Schemas['LoadLine'][] | null>(null);
  let width = $state(700);
  const open = $derived(Number(page.url.searchParams.get('load')) || null);
  const load = latest(
    () => take(api.GET('/api/loads', { params: { query: { view: 'open', limit: 500 } } })),
    (answer) => (lines = answer.rows),
    showError,
  );
  $effect(() => {
    void load();
    return live.follow(load, ['loads']);
  });
  const axis = $derived<Axis>({
    from: session.now - 8 * 3_600_000,
    until: session.now + (width > 800 ? 132 : 88) * 3_600_000,
    width: Math.max(130, Math.round(width * 0.31)),
  });
  const groups = $derived([
    { title: 'Picks up soon', urgency: 'now' as const, rows: (lines ?? []).filter((l) => l.open?.urgency !== 'none') },
    { title: 'Later', rows: (lines ?? []).filter((l) => l.open?.urgency === 'none') },
  ]);
  const to = (id: number | null) =>
    void goto(id ? `/cover?load=${id}` : '/cover', { keepFocus: true, noScroll: true, replaceState: true });
</script>

<svelte:head><title>Cover · Steady Lark</title></svelte:head>
<div class="flex h-full">
  <section class="flex min-w-0 flex-1 flex-col" bind:clientWidth={width}>
    <Head title="Cover" tabs={[{ id: 'open', label: 'Open loads', count: lines?.length }]} tab="open" />
    <div class="flex justify-end" style:padding-right="{statusWidth() + 16}px">
      <div style:width="{axis.width}px"><AxisHead {axis} /></div>
    </div>
    <div class="min-h-0 flex-1 overflow-y-auto">
      <div class="relative min-h-full">
        <div
          class="pointer-events-none absolute inset-y-0"
          style:right="{statusWidth() + 16}px"
          style:width="{axis.width}px"
        >
          <AxisLines {axis} />
        </div>
        <Slate
          label="Uncovered loads"
          {groups}
          key={(l) => l.load.id}
          {open}
          onopen={(l) => to(l.load.id)}
          changed={(l) => !!live.changed[l.load.id]}
          loading={lines === null}
          empty="Every booked load is covered. New loads appear here when they are booked."
        >
          {#snippet row(l)}<LoadRowView line={l} {axis} open />{/snippet}
        </Slate>
      </div>
    </div>
  </section>
  {#if open}
    <Sheet label="load" wide onclose={() => to(null)}>
      <LoadSheet id={open}>
        {#snippet top(view)}
          {#if view.open && view.sheet.load.state !== 'tendered' && session.may('loads.cover')}<CoverPanel
              {view}
              oncovered={load}
            />{/if}
        {/snippet}
      </LoadSheet>
    </Sheet>
  {/if}
</div>
