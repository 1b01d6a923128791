<script lang="ts">
  import { page } from '$app/state';
  import { api, take, type Schemas } from '$lib/api/client';
  import { latest } from '$lib/api/latest';
  import LoadRowView from '$lib/loads/LoadRowView.svelte';
  import LoadSheet from '$lib/loads/LoadSheet.svelte';
  import { statusWidth } from '$lib/loads/labels';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import { setQuery } from '$lib/state/address';
  import { session } from '$lib/state/session.svelte';
  import AxisHead from '$ui/AxisHead.svelte';
  import AxisLines from '$ui/AxisLines.svelte';
  import Head from '$ui/Head.svelte';
  import Sheet from '$ui/Sheet.svelte';
  import Slate from '$ui/Slate.svelte';
  import type { Axis } from '$ui/axis';

  let lines = $state<Schemas['LoadLine'][] | null>(null);
  let width = $state(800);
  const open = $derived(Number(page.url.searchParams.get('load')) || null);
  const tab = $derived(page.url.searchParams.get('tab') ?? 'all');

  async function moving() {
    const all: Schemas['LoadLine'][] = [];
    let after: string | undefined;
    do {
      const got = await take(api.GET('/api/loads', { params: { query: { view: 'moving', after, limit: 500 } } }));
      all.push(...got.rows);
      after = got.next ?? undefined;
    } while (after);
    return all;
  }
  const load = latest(moving, (all) => (lines = all), showError);
  $effect(() => {
    void load();
    return live.follow(load, ['loads']);
  });
  const shown = $derived(
    (lines ?? []).filter((l) =>
      tab === 'ours'
        ? l.load.driverId
        : tab === 'carriers'
          ? l.load.carrierId
          : tab === 'under'
            ? l.load.state === 'rolling'
            : true,
    ),
  );
  const axis = $derived<Axis>({
    from: session.now - 10 * 3_600_000,
    until: session.now + (width > 900 ? 62 : 38) * 3_600_000,
    width: Math.max(180, Math.round(width * (width > 1000 ? 0.38 : width > 900 ? 0.28 : 0.24))),
  });
  const rank = (l: Schemas['LoadLine']) => (l.urgency === 'now' ? 0 : 1);
  const groups = $derived([
    {
      title: 'Needs you',
      urgency: 'now' as const,
      rows: shown.filter((l) => l.needsYou).sort((a, b) => rank(a) - rank(b)),
    },
    { title: 'On track', rows: shown.filter((l) => !l.needsYou) },
  ]);
</script>

<svelte:head><title>Roll · Steady Lark</title></svelte:head>
<div class="flex h-full">
  <section class="flex min-w-0 flex-1 flex-col" bind:clientWidth={width}>
    <Head
      title="Roll"
      tabs={[
        { id: 'all', label: 'All moving', count: lines?.length },
        { id: 'under', label: 'Rolling' },
        { id: 'ours', label: 'Ours' },
        { id: 'carriers', label: 'Carriers' },
      ]}
      {tab}
      ontab={(t) => setQuery({ tab: t === 'all' ? null : t })}
    />
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
          label="Moving loads"
          {groups}
          key={(l) => l.load.id}
          {open}
          onopen={(l) => setQuery({ load: String(l.load.id) })}
          changed={(l) => !!live.changed[l.load.id]}
          loading={lines === null}
          empty="Nothing is covered or rolling. Cover a load and it appears here."
        >
          {#snippet row(l)}<LoadRowView line={l} {axis} who roomy={width > 1000} />{/snippet}
        </Slate>
      </div>
    </div>
  </section>
  {#if open}
    <Sheet label="load" onclose={() => setQuery({ load: null })}><LoadSheet id={open} /></Sheet>
  {/if}
</div>
