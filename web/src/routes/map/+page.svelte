<script lang="ts">
  import { page } from '$app/state';
  import Printer from '@lucide/svelte/icons/printer';
  import { api, Refused, take, type Schemas } from '$lib/api/client';
  import LoadSheet from '$lib/loads/LoadSheet.svelte';
  import MapView from '$lib/map/Map.svelte';
  import PlaceField from '$lib/map/PlaceField.svelte';
  import PrintedMap from '$lib/map/PrintedMap.svelte';
  import { foundWords, type Point } from '$lib/map/trips';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import { setQuery } from '$lib/state/address';
  import { session } from '$lib/state/session.svelte';
  import { clockAt, formatLocal, zoneName } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Head from '$ui/Head.svelte';
  import Select from '$ui/Select.svelte';
  import Sheet from '$ui/Sheet.svelte';
  import TextField from '$ui/TextField.svelte';

  /** Everything that moves, where it is and where it is going; and searches near a place or along a route. */
  let loads = $state<Schemas['MapLoad'][] | null>(null);
  let near = $state<Schemas['NearAnswer'] | null>(null);
  let refused = $state<Refused | null>(null);
  let at = $state<Schemas['Candidate'] | null>(null);
  let until = $state<Schemas['Candidate'] | null>(null);
  let miles = $state('100');
  let region = $state('');
  let kind = $state('');
  let busy = $state(false);
  const q = $derived(page.url.searchParams);
  const tab = $derived(q.get('tab') ?? 'moving');
  const open = $derived(Number(q.get('load')) || null);

  async function load() {
    try {
      loads = await take(api.GET('/api/map/loads'));
    } catch (e) {
      showError(e);
    }
  }
  $effect(() => {
    void load();
    const every = setInterval(load, 30_000);
    const stop = live.follow(load, ['loads']);
    return () => {
      clearInterval(every);
      stop();
    };
  });
  const to = (next: Record<string, string | null>) => setQuery(next);
  const chosen = $derived((loads ?? []).find((l) => l.id === open));
  const rows = $derived(
    [...(loads ?? [])].sort(
      (a, b) => Number(b.urgency === 'now') - Number(a.urgency === 'now') || a.number.localeCompare(b.number),
    ),
  );
  const found = $derived((near?.found ?? []).filter((f) => !kind || f.kind === kind));
  const trips = $derived(
    tab === 'near'
      ? near?.line.length
        ? [{ id: -1, label: '', line: near.line, stops: [], look: 0 }]
        : []
      : (loads ?? []).map((l) => ({
          id: l.id,
          label: l.number,
          line: l.line,
          stops: l.stops.map((s, i) => ({ at: s.at, label: String(i + 1), done: s.done, name: s.place })),
          faint: true,
          look: l.state === 'covered' ? 2 : 0,
        })),
  );
  const trucks = $derived(
    tab === 'near'
      ? []
      : (loads ?? [])
          .filter((l) => l.at)
          .map((l) => ({
            id: l.id,
            at: l.at!,
            label: `${l.who ?? ''} ${l.number}`.trim(),
            urgent: l.urgency === 'now',
          })),
  );
  const marks = $derived(tab === 'near' ? found.map((f, i) => ({ id: i, at: f.at, label: f.name, kind: f.kind })) : []);
  // The selected row's route is always in view.
  const view = $derived<readonly Point[]>(
    tab === 'near'
      ? near
        ? [near.at, ...near.line, ...found.map((f) => f.at)]
        : []
      : chosen
        ? [...chosen.line, ...(chosen.at ? [chosen.at] : [])]
        : (loads ?? []).flatMap((l) => (l.at ? [l.at] : l.line)),
  );
  let picked = $state<number | null>(null);

  async function look(e: SubmitEvent) {
    e.preventDefault();
    busy = true;
    refused = null;
    picked = null;
    try {
      near = await take(
        api.GET('/api/map/near', {
          params: {
            query: { at: at?.label, to: until?.label, miles: Number(miles) || 100, region: region || undefined },
          },
        }),
      );
    } catch (e) {
      if (e instanceof Refused) refused = e;
      else showError(e);
    } finally {
      busy = false;
    }
  }
  function step(e: KeyboardEvent) {
    if (!['ArrowDown', 'ArrowUp'].includes(e.key)) return;
    e.preventDefault();
    const all = [...(e.currentTarget as HTMLElement).querySelectorAll<HTMLElement>('button')];
    const here = all.indexOf(document.activeElement as HTMLElement);
    all[Math.max(0, Math.min(all.length - 1, here + (e.key === 'ArrowDown' ? 1 : -1)))]?.focus();
  }
</script>

<svelte:head><title>Map · Steady Lark</title></svelte:head>
<div class="flex h-full print:block print:h-auto">
  <section class="flex w-[330px] shrink-0 flex-col print:hidden">
    <Head
      title="Map"
      tabs={[
        { id: 'moving', label: 'Moving', count: loads?.length },
        { id: 'near', label: 'Near' },
      ]}
      {tab}
      ontab={(t) => to({ tab: t === 'moving' ? null : t, load: null })}
    >
      <Button small look="quiet" onclick={() => window.print()}><Printer size={14} /> Print</Button>
    </Head>
    {#if tab === 'near'}
      <form class="grid grid-cols-6 gap-2 px-5 pt-3 pb-2" onsubmit={look}>
        <PlaceField
          class="col-span-6"
          label="Near, or from"
          required
          bind:value={at}
          problem={refused?.at('at')}
          placeholder="Butte MT"
        />
        <PlaceField
          class="col-span-6"
          label="Along the route to"
          bind:value={until}
          problem={refused?.at('to')}
          placeholder="leave empty for a radius"
        />
        <TextField
          class="col-span-2"
          label={until ? 'Detour, mi' : 'Within, mi'}
          inputmode="decimal"
          bind:value={miles}
          problem={refused?.at('miles')}
        />
        <TextField class="col-span-4" label="Limit to" bind:value={region} placeholder="MT, ID or Mountain" />
        <div class="col-span-6 flex items-center justify-between gap-2">
          <Button look="main" small type="submit" {busy} disabled={!at}>Search</Button>
          <Select
            class="h-8 w-36 text-sm"
            label="Type"
            bind:value={kind}
            options={[
              { value: '', label: 'everything' },
              { value: 'load', label: 'open loads' },
              { value: 'truck', label: 'trucks' },
              { value: 'place', label: 'places' },
            ]}
          />
        </div>
      </form>
    {/if}
    <!-- svelte-ignore a11y_no_static_element_interactions -- arrows go through the buttons within -->
    <div class="min-h-0 flex-1 overflow-y-auto pt-2 pb-4" onkeydown={step}>
      {#if tab === 'near'}
        {#each found as f, i (`${f.kind} ${f.id}`)}
          <button
            type="button"
            class="border-line block w-full border-b px-5 py-1.5 text-left {picked === i
              ? 'bg-lark-tint'
              : 'hover:bg-faint'}"
            onclick={() => (picked = i)}
          >
            <span class="flex justify-between gap-2"
              ><b class="truncate">{f.name}</b><span class="fig shrink-0 text-sm"
                >{near?.to ? '+' : ''}{f.miles.toFixed(0)} mi</span
              ></span
            >
            <span class="text-mute text-sm">{foundWords[f.kind]}, {f.where}</span>
          </button>
        {:else}
          <p class="text-mute px-5 text-sm">
            {near
              ? 'Nothing found: try a larger radius or another type.'
              : 'Open loads, trucks and places by road miles.'}
          </p>
        {/each}
      {:else}
        {#each rows as l (l.id)}
          <button
            type="button"
            class="border-line block w-full border-b px-5 py-1.5 text-left {open === l.id
              ? 'bg-lark-tint'
              : 'hover:bg-faint'} {live.changed[l.id] ? 'just-changed' : ''}"
            aria-current={open === l.id}
            onclick={() => to({ load: open === l.id ? null : String(l.id) })}
          >
            <span class="flex justify-between gap-2"
              ><span class="truncate"><b class="fig">{l.number}</b> {l.lane}</span><span
                class="shrink-0 text-sm {l.urgency === 'now'
                  ? 'text-ember-word font-bold'
                  : l.urgency === 'soon'
                    ? 'text-marigold-word font-bold'
                    : 'text-mute'}">{l.status}</span
              ></span
            >
            <span class="text-mute block truncate text-sm"
              >{l.who ?? 'not covered'}{l.seenWhere
                ? ` · ${l.seenWhere} ${clockAt(l.seenAt!, session.zone)}`
                : l.state === 'rolling'
                  ? ' · no position'
                  : ''}</span
            >
          </button>
        {:else}
          <p class="text-mute px-5 text-sm">
            {loads ? 'No loads are moving. Loads appear here once they are covered.' : 'Loading …'}
          </p>
        {/each}
      {/if}
    </div>
  </section>
  <h1 class="hidden pb-2 font-bold print:block">
    {tab === 'near'
      ? `Near ${near?.to ? `the route from ${at?.label} to ${until?.label}` : (at?.label ?? '')}`
      : 'On the road'},
    {formatLocal(session.wallClock())}
    {zoneName(session.zone)}
  </h1>
  <div class="border-line min-w-0 flex-1 border-l print:break-inside-avoid print:border">
    <MapView
      label="Map"
      {trips}
      {trucks}
      {marks}
      {view}
      chosen={tab === 'near' ? picked : open}
      onpick={(what, id) => (what === 'mark' ? (picked = id) : to({ load: String(id) }))}
    />
  </div>
  {#if tab === 'near'}<PrintedMap {found} detour={!!near?.to} />{:else}<PrintedMap
      loads={chosen ? [chosen] : rows}
    />{/if}
  {#if open && tab === 'moving'}
    <Sheet label="load" onclose={() => to({ load: null })}><LoadSheet id={open} onchanged={load} /></Sheet>
  {/if}
</div>
