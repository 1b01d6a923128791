<script lang="ts">
  import Part from '$ui/Part.svelte';
  import Cod from './Cod.svelte';
  import { inCurrency } from '$ui/currency';
  import { goto } from '$app/navigation';
  import { api, ifMatch, Refused, take, type Schemas } from '$lib/api/client';
  import { keepShown, latest } from '$lib/api/latest';
  import { onChange } from '$lib/state/change.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { isPlain } from '$ui/keys';
  import LoadClaims from '$lib/claims/LoadClaims.svelte';
  import Assignment from './sheet/Assignment.svelte';
  import Costs from './sheet/Costs.svelte';
  import Documents from './sheet/Documents.svelte';
  import Freight from './sheet/Freight.svelte';
  import Glance from './sheet/Glance.svelte';
  import Heading from './sheet/Heading.svelte';
  import History from './sheet/History.svelte';
  import Notices from './sheet/Notices.svelte';
  import Reports from './sheet/Reports.svelte';
  import Route from './sheet/Route.svelte';
  import Stops from './sheet/Stops.svelte';

  /** A load, beside a list or on its whole page: there in two columns, its sections numbered and reached by Alt and their number. */
  interface Props {
    id: number;
    /** Content before the stops: the cover panel. */
    top?: import('svelte').Snippet<[Schemas['LoadSheetView']]>;
    onchanged?: () => void;
    whole?: boolean;
  }
  let { id, top, onchanged, whole = false }: Props = $props();
  let view = $state<Schemas['LoadSheetView'] | null>(null);
  let problem = $state('');
  let busy = $state('');
  let sections = $state<HTMLElement>();

  const load: () => Promise<void> = latest(
    () => take(api.GET('/api/loads/{id}', { params: { path: { id } } })),
    (answer) => {
      view = answer;
      problem = '';
    },
    keepShown(
      () => view,
      () => void load(),
      (e) => (problem = e instanceof Refused ? e.message : 'This load could not be loaded.'),
    ),
  );
  onChange(
    () => id,
    () => {
      view = null;
      problem = '';
      void load();
      return live.follow(load, (e) => e.loadId === id);
    },
  );
  const l = $derived(view?.sheet.load);
  inCurrency(() => l?.revenue?.currency);

  async function run(name: string, act: () => Promise<unknown>) {
    busy = name;
    try {
      await act();
      onchanged?.();
    } catch (e) {
      if (e instanceof Refused && e.status === 409) {
        showDone('Someone else changed this load. Showing the latest version.');
      } else showError(e);
    } finally {
      busy = '';
      await load();
    }
  }
  async function changed() {
    onchanged?.();
    await load();
  }
  const unassign = (leg: Schemas['LegView']) =>
    run('unassign', async () => {
      const done = await take(
        api.POST('/api/loads/{id}/unassign', {
          params: { path: { id }, query: { leg: leg.legId } },
          headers: ifMatch(l!.version),
        }),
      );
      showDone(
        leg.state === 'tendered'
          ? `Tender of ${done.number} to ${done.who} withdrawn.`
          : `${done.number} unassigned from ${done.who}.`,
      );
    });

  /** c: go to Cover. Alt and a number: go to that section of the whole page. */
  function key(e: KeyboardEvent) {
    const digit = /^Digit([1-9])$/.exec(e.code)?.[1];
    if (whole && e.altKey && digit) {
      const title = sections?.querySelectorAll<HTMLElement>('section h3')[Number(digit) - 1];
      if (!title) return;
      e.preventDefault();
      title.tabIndex = -1;
      title.scrollIntoView({ block: 'start' });
      title.focus({ preventScroll: true });
    } else if (
      e.key === 'c' &&
      isPlain(e) &&
      !location.pathname.startsWith('/cover') &&
      view?.open &&
      session.may('loads.cover')
    ) {
      e.preventDefault();
      void goto(`/cover?load=${id}`);
    }
  }
  const placed = $derived(!!l && l.stops.length > 1 && l.stops.every((s) => s.latitude !== null));
</script>

<svelte:window onkeydown={key} />
{#if problem}
  <p class="p-5" role="alert">{problem}</p>
{:else if !view || !l}
  <p class="text-mute p-5" role="status">Loading …</p>
{:else}
  <div class="px-5 pt-4 pb-3">
    <Heading {view} {whole} {run} {busy} />
    <Glance {view} {whole} />
  </div>
  <Notices {view} {run} {busy} onchanged={changed} />
  {#if whole}
    <div class="border-line grid border-t lg:grid-cols-[minmax(0,1fr)_21rem]">
      <div bind:this={sections} class="numbered min-w-0 pb-8 [&>section:first-child]:border-t-0">
        {@render body(view)}
      </div>
      <div class="lg:border-line min-w-0 pb-8 lg:border-l [&>section:first-child]:border-t-0">
        {#if placed}<Route {view} onchanged={changed} />{/if}
        <History of={view.sheet.load.id} events={view.events} emails={view.emails} />
      </div>
    </div>
  {:else}
    {@render body(view)}
    {#if placed}<Route {view} onchanged={changed} />{/if}
    <History of={view.sheet.load.id} events={view.events} emails={view.emails} />
  {/if}
{/if}

{#snippet body(view: Schemas['LoadSheetView'])}
  {@render top?.(view)}
  <Stops {view} {run} onchanged={changed} />
  <Reports {view} onchanged={changed} />
  <Assignment {view} takeBack={unassign} busy={busy === 'unassign'} onchanged={changed} />
  <Costs {view} {whole} onchanged={changed} />
  {#if view.sheet.load.cod}<Part title="Cash on delivery"
      ><Cod loadId={id} cod={view.sheet.load.cod} may={session.may('loads.roll')} onchanged={changed} /></Part
    >{/if}
  <LoadClaims load={view.sheet.load} legs={view.sheet.legs} onchanged={changed} />
  <Documents {view} {run} busy={busy === 'paper'} />
  <Freight {view} />
{/snippet}
