<script lang="ts">
  import { api, Refused, take, type Schemas } from '$lib/api/client';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import Notice from '$ui/Notice.svelte';
  import TextField from '$ui/TextField.svelte';
  import { hours } from '$lib/time/when';
  import AddStop from './AddStop.svelte';
  import MoveStop from './MoveStop.svelte';
  import RunStop from './RunStop.svelte';
  import { clock, costOf, letter, minutes } from './clock';

  /** The runs of a plan: what each driver does and when; stops are moved, inserted, locked and completed by hand. */
  interface Props {
    plan: Schemas['RunPlanView'];
    chosen: number | null;
    onchosen: (stop: number | null) => void;
    onplan: (plan: Schemas['RunPlanView']) => void;
    reload: () => void;
  }
  let { plan, chosen, onchosen, onplan, reload }: Props = $props();
  const may = $derived(session.may('loads.cover'));
  const name = (i: number) => plan.ask.stops?.[i]?.name ?? plan.ask.stops?.[i]?.at?.label ?? `stop ${i + 1}`;
  let cost = $state<Schemas['RunChangeView'] | null>(null);
  let trying = $state<{ stop: number; driver: number; place: number } | null>(null);
  let adding = $state(false);
  let refused = $state<Refused | null>(null);
  let busy = $state('');
  let again = $state('');

  async function run<T>(what: string, act: () => Promise<T>): Promise<T | null> {
    busy = what;
    refused = null;
    try {
      return await act();
    } catch (e) {
      if (e instanceof Refused) refused = e;
      else showError(e);
      return null;
    } finally {
      busy = '';
    }
  }
  /** Alt with arrows moves the selected stop: first it previews the cost, Enter applies it. */
  async function key(e: KeyboardEvent, driver: number, at: number, stop: number) {
    if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
      e.preventDefault();
      if (e.altKey && may) {
        const now = trying?.stop === stop ? trying : { stop, driver, place: at };
        let [d, p] = [now.driver, now.place + (e.key === 'ArrowDown' ? 1 : -1)];
        const length = (n: number) => plan.runs[n].stops.filter((s) => s !== stop).length;
        if (p < 0) {
          if (d === 0) return;
          d -= 1;
          p = length(d);
        } else if (p > length(d)) {
          if (d === plan.runs.length - 1) return;
          d += 1;
          p = 0;
        }
        await offer(stop, d, p);
      } else {
        const all = [...document.querySelectorAll<HTMLElement>('[data-stop]')];
        const next = all.indexOf(e.currentTarget as HTMLElement) + (e.key === 'ArrowDown' ? 1 : -1);
        all[next]?.focus();
      }
    } else if (e.key === 'Enter' && trying?.stop === stop) {
      e.preventDefault();
      await move();
    } else if (e.key === 'Escape' && trying) {
      e.preventDefault();
      trying = cost = null;
    } else if (e.key === 'l' && may) await mark(stop, undefined, !plan.ask.stops![stop].locked);
    else if (e.key === 'd' && may) await mark(stop, !plan.ask.stops![stop].done, undefined);
  }
  async function offer(stop: number, driver: number, place: number) {
    trying = { stop, driver, place };
    cost = await run('try', () =>
      take(
        api.POST('/api/runs/{id}/move', {
          params: { path: { id: plan.id } },
          body: { stop, driver, place, try: true },
        }),
      ),
    );
    if (!cost) trying = null;
  }
  async function move() {
    if (!trying) return;
    const t = trying;
    const from = plan.runs.findIndex((r) => r.stops.includes(t.stop));
    const before = {
      stop: t.stop,
      driver: Math.max(0, from),
      place: from < 0 ? 0 : plan.runs[from].stops.indexOf(t.stop),
      try: false,
    };
    const done = await run('move', () =>
      take(api.POST('/api/runs/{id}/move', { params: { path: { id: plan.id } }, body: { ...t, try: false } })),
    );
    trying = cost = null;
    if (done?.plan) {
      onplan(done.plan);
      showDone(
        `${name(t.stop)} moved to driver ${letter(done.driver)}: ${costOf(done)}.`,
        from < 0
          ? undefined
          : () =>
              take(api.POST('/api/runs/{id}/move', { params: { path: { id: plan.id } }, body: before })).then(
                (r) => r.plan && onplan(r.plan),
              ),
      );
    }
  }
  async function mark(stop: number, done?: boolean, locked?: boolean) {
    const now = await run('mark', () =>
      take(
        api.POST('/api/runs/{id}/mark', {
          params: { path: { id: plan.id } },
          body: { stop, done: done ?? null, locked: locked ?? null },
        }),
      ),
    );
    if (now) onplan(now);
  }
  async function replan() {
    const now = await run('replan', () =>
      take(
        api.POST('/api/runs/{id}/replan', {
          params: { path: { id: plan.id } },
          body: { from: again.trim() ? (minutes(again) ?? -1) : null, share: null, drivers: null },
        }),
      ),
    );
    if (now) onplan(now);
  }
  const files = [
    ['pdf', 'Print'],
    ['gpx', 'GPX'],
    ['geo_json', 'GeoJSON'],
    ['csv', 'CSV'],
  ];
</script>

<div class="px-5 pt-3 pb-6">
  {#if plan.state === 'planning'}
    <div role="status">
      <p class="mb-1">
        Planning {plan.ask.stops?.length} stops{plan.bestSoFar
          ? `: best so far ${plan.bestSoFar.toFixed(1)} ${plan.ask.objective === 'miles' ? 'mi' : 'min'}`
          : ''}
      </p>
      <progress class="accent-lark h-2 w-full" max="1" value={plan.progress}></progress>
      <Button
        small
        class="mt-2"
        onclick={() =>
          run('cancel', () =>
            take(api.POST('/api/runs/{id}/cancel', { params: { path: { id: plan.id } } })).then(reload),
          )}>Use the best result so far</Button
      >
    </div>
  {:else}
    {#if plan.summary}<Notice
        urgency={plan.state === 'failed' ? 'now' : 'soon'}
        title={plan.state === 'failed' ? 'Planning failed' : 'Check this'}><p>{plan.summary}</p></Notice
      >{/if}
    <p class="mt-1">
      <b>{plan.drivers}</b>
      {plan.drivers === 1 ? 'driver' : 'drivers'}, <b class="fig">{plan.miles.toFixed(1)}</b> mi, {hours(plan.minutes)} of
      driving
      {#if plan.ask.share === 'fewest'}<span class="text-mute"
          >(the fewest found that the windows and shifts allow)</span
        >{/if}
    </p>
    <p class="mb-2 flex gap-3 text-sm">
      {#each files as [format, word] (format)}<a
          class="text-lark font-bold hover:underline"
          href="/api/runs/{plan.id}/file?format={format}"
          target={format === 'pdf' ? '_blank' : undefined}>{word}</a
        >{/each}
    </p>
    {#each plan.unserved as u (u.stop)}
      <p class="text-sm">
        <b class="text-ember-word">Not served:</b>
        {name(u.stop)}, {u.why}
        {#if may && plan.runs.length}<button
            class="text-lark font-bold hover:underline"
            onclick={() => offer(u.stop, 0, plan.runs[0].stops.length)}>try anyway</button
          >{/if}
      </p>
    {/each}
    {#if refused}<p class="text-ember-word text-sm" role="alert">{refused.message}</p>{/if}
    {#each plan.runs.filter((r) => r.stops.length || trying) as r (r.driver)}
      <section class="mt-3">
        <h3 class="flex items-baseline gap-2">
          <span class="bg-ink text-panel rounded-full px-2 text-sm font-bold">{letter(r.driver)}</span>
          <b>{clock(r.begins)}–{clock(r.ends)}</b>
          <span class="text-mute text-sm"
            >{r.stops.length} stops, {r.miles.toFixed(1)} mi, {hours(r.ends - r.begins)} total</span
          >
          <a
            class="text-lark ml-auto text-sm hover:underline"
            href="/api/runs/{plan.id}/file?format=pdf&driver={r.driver}"
            target="_blank">print</a
          >
        </h3>
        {#if r.breaks}<p class="text-ember-word text-sm font-bold">{r.breaks}</p>{/if}
        <ol>
          {#each r.stops as s, i (s)}
            <RunStop
              {plan}
              run={r}
              {i}
              chosen={chosen === s}
              name={name(s)}
              {may}
              {onchosen}
              onkey={(e) => key(e, r.driver, i, s)}
              onmark={(done, locked) => mark(s, done, locked)}
            />
          {/each}
        </ol>
      </section>
    {/each}
    {#if chosen !== null && may && !plan.ask.stops![chosen]?.done}
      <MoveStop {plan} stop={chosen} {trying} {cost} {name} busy={busy === 'move'} {offer} {move} />
    {/if}
    {#if may}
      <div class="mt-4 flex flex-wrap items-end gap-2">
        <Button small onclick={() => (adding = !adding)}>{adding ? 'Cancel new stop' : 'Add a stop'}</Button>
        <TextField
          class="w-28"
          label="Replan from"
          placeholder={clock(plan.ask.from)}
          bind:value={again}
          problem={refused?.at('from')}
        />
        <Button small busy={busy === 'replan'} onclick={replan}>Replan</Button>
        <span class="text-mute pb-1.5 text-sm">completed stops stay, locked stops keep their driver</span>
      </div>
      {#if adding}
        <AddStop
          {plan}
          onplan={(now) => {
            onplan(now);
            adding = false;
          }}
        />
      {/if}
    {/if}
  {/if}
</div>
