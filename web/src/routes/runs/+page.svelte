<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, take, type Schemas } from '$lib/api/client';
  import MapView from '$lib/map/Map.svelte';
  import { letter } from '$lib/runs/clock';
  import NewRun from '$lib/runs/NewRun.svelte';
  import RunSheet from '$lib/runs/RunSheet.svelte';
  import { onChange } from '$lib/state/change.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { localAt, formatLocal } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Head from '$ui/Head.svelte';

  /** Many small stops in a day: address lists become runs for one or more drivers. */
  let plans = $state<Schemas['RunHead'][] | null>(null);
  let plan = $state<Schemas['RunPlanView'] | null>(null);
  let chosen = $state<number | null>(null);
  const id = $derived(Number(page.url.searchParams.get('plan')) || null);
  const making = $derived(page.url.searchParams.has('new'));

  const list = () =>
    take(api.GET('/api/runs'))
      .then((p) => (plans = p))
      .catch(showError);
  const load = async () => {
    if (!id) return;
    try {
      plan = await take(api.GET('/api/runs/{id}', { params: { path: { id } } }));
    } catch (e) {
      showError(e);
    }
  };
  $effect(() => {
    void list();
    return live.follow(list, ['runs']);
  });
  onChange(
    () => id,
    () => {
      plan = null;
      chosen = null;
      void load();
    },
  );
  $effect(() => {
    if (plan?.state !== 'planning') return;
    const again = setTimeout(load, 600);
    return () => clearTimeout(again);
  });
  const to = (q: string) => void goto(`/runs${q}`, { keepFocus: true, noScroll: true });
  const trips = $derived(
    (plan?.runs ?? [])
      .filter((r) => r.stops.length)
      .map((r) => ({
        id: r.driver,
        label: letter(r.driver),
        line: r.line,
        look: r.driver % 6,
        stops: r.stops.map((s, i) => ({
          at: [plan!.ask.stops![s].at!.longitude, plan!.ask.stops![s].at!.latitude],
          label: `${letter(r.driver)}${i + 1}`,
          done: plan!.ask.stops![s].done,
        })),
      })),
  );
  const here = $derived(chosen === null ? null : (plan?.ask.stops?.[chosen]?.at ?? null));
  const marks = $derived([
    ...(plan?.ask.start
      ? [{ id: -1, at: [plan.ask.start.longitude, plan.ask.start.latitude], label: 'Terminal', kind: 'load' }]
      : []),
    ...(here ? [{ id: -2, at: [here.longitude, here.latitude], label: '', kind: 'place' }] : []),
  ]);
  const view = $derived(trips.flatMap((t) => t.line));
</script>

<svelte:head><title>Runs · Steady Lark</title></svelte:head>
<div class="flex h-full">
  <section class="flex w-[560px] shrink-0 flex-col">
    <Head title={plan && id ? plan.name : making ? 'New plan' : 'Runs'}>
      {#if id || making}<Button small look="quiet" onclick={() => to('')}>All plans</Button
        >{:else if session.may('loads.cover')}<Button small look="main" onclick={() => to('?new')}>New plan</Button
        >{/if}
    </Head>
    <div class="min-h-0 flex-1 overflow-y-auto">
      {#if making}
        <NewRun
          onmade={(p) => {
            plan = p;
            to(`?plan=${p.id}`);
          }}
        />
      {:else if id}
        {#if plan}<RunSheet
            {plan}
            {chosen}
            onchosen={(s) => (chosen = s)}
            onplan={(p) => (plan = p)}
            reload={load}
          />{:else}<p class="text-mute p-5" role="status">Loading …</p>{/if}
      {:else}
        <ul class="pt-2">
          {#each plans ?? [] as p (p.id)}
            <li>
              <a
                class="border-line hover:bg-faint flex items-baseline gap-3 border-b px-5 py-2"
                href="/runs?plan={p.id}"
                ><b class="min-w-0 flex-1 truncate">{p.name}</b><span class="text-mute text-sm"
                  >{p.state === 'planning' ? 'planning' : p.state === 'failed' ? 'failed' : ''}</span
                ><span class="text-mute text-sm">{p.madeBy}, {formatLocal(localAt(p.changedAt, session.zone))}</span></a
              >
            </li>
          {:else}
            <li class="text-mute px-5">
              {plans
                ? 'No run plans yet. Paste a list of addresses or upload a file to plan routes for one driver, as few drivers as possible, or an even split.'
                : 'Loading …'}
            </li>
          {/each}
        </ul>
      {/if}
    </div>
  </section>
  <div class="border-line min-w-0 flex-1 border-l">
    <MapView label="Runs on the map" {trips} {marks} {view} />
  </div>
</div>
