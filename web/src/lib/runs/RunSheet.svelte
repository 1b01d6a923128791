<script lang="ts">
  import { api, Refused, take, type Schemas } from '$lib/api/client';
  import PlaceField from '$lib/map/PlaceField.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import Notice from '$ui/Notice.svelte';
  import TextField from '$ui/TextField.svelte';
  import Lock from '@lucide/svelte/icons/lock';
  import LockOpen from '@lucide/svelte/icons/lock-open';
  import Check from '@lucide/svelte/icons/check';
  import { hours } from '$lib/time/when';
  import { clock, letter, minutes } from './clock';

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
  let place = $state<Schemas['Candidate'] | null>(null);
  let called = $state('');
  let service = $state('10');
  let opens = $state('');
  let closes = $state('');
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
  const signed = (n: number, unit: string) =>
    `${n > 0 ? '+' : n < 0 ? '−' : '±'}${Math.abs(n).toFixed(unit === 'mi' ? 1 : 0)} ${unit}`;
  const said = (c: Schemas['RunChangeView']) => `${signed(c.miles, 'mi')}, ${signed(c.minutes, 'min')}`;

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
        `${name(t.stop)} moved to driver ${letter(done.driver)}: ${said(done)}.`,
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
  const insertion = (dry: boolean) => ({
    stop: {
      name: called || null,
      at: place && { label: place.label, latitude: place.point.latitude!, longitude: place.point.longitude! },
      service: Number(service) || 0,
      opens: opens.trim() ? (minutes(opens) ?? -1) : null,
      closes: closes.trim() ? (minutes(closes) ?? -1) : null,
      demand: 0,
      done: false,
      locked: false,
    },
    try: dry,
  });
  let where = $state<Schemas['RunChangeView'] | null>(null);
  async function insert(dry: boolean) {
    const done = await run('insert', () =>
      take(api.POST('/api/runs/{id}/insert', { params: { path: { id: plan.id } }, body: insertion(dry) })),
    );
    where = dry ? done : null;
    if (done?.plan) {
      onplan(done.plan);
      showDone(
        `${called || place?.label} added to driver ${letter(done.driver)}, stop ${done.place + 1}: ${said(done)}.`,
      );
      adding = false;
      called = '';
      place = null;
    }
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
            {@const v = r.visits[i]}
            {@const ask = plan.ask.stops![s]}
            {@const late = v && ask.closes !== null && ask.closes !== undefined ? Math.round(v.begins - ask.closes) : 0}
            <li class="border-line flex items-center border-b {chosen === s ? 'bg-lark-tint' : ''}">
              <button
                type="button"
                data-stop={s}
                class="flex min-w-0 flex-1 items-baseline gap-2 px-1 py-1 text-left text-sm {ask.done
                  ? 'text-mute'
                  : ''}"
                onclick={() => onchosen(s)}
                onfocus={() => onchosen(s)}
                onkeydown={(e) => key(e, r.driver, i, s)}
                aria-label="{letter(r.driver)}{i + 1} {name(s)}{ask.done ? ', done' : ''}{ask.locked ? ', locked' : ''}"
              >
                <span class="fig w-8 shrink-0 font-bold">{letter(r.driver)}{i + 1}</span>
                <span class="fig w-12 shrink-0 {late > 0 ? 'text-ember-word font-bold' : ''}"
                  >{v ? clock(v.begins) : ''}</span
                >
                <span class="min-w-0 flex-1 truncate"><b>{name(s)}</b>{ask.name ? ` ${ask.at?.label}` : ''}</span>
                <span class="text-mute fig shrink-0"
                  >{#if late > 0}<b class="text-ember-word">late {late < 60 ? `${late} min` : hours(late)}</b
                    >{' · '}{/if}{v && v.begins - v.arrives >= 1
                    ? `waits ${Math.round(v.begins - v.arrives)} · `
                    : ''}{ask.closes !== null && ask.closes !== undefined ? `by ${clock(ask.closes)} · ` : ''}{v
                    ? `${v.miles.toFixed(1)} mi`
                    : ''}</span
                >
              </button>
              {#if may}
                <button
                  class="text-mute hover:bg-faint rounded p-1"
                  title={ask.locked ? 'Unlock (l)' : 'Lock to this driver (l)'}
                  aria-label="{ask.locked ? 'Unlock' : 'Lock'} {name(s)}"
                  onclick={() => mark(s, undefined, !ask.locked)}
                  >{#if ask.locked}<Lock size={13} />{:else}<LockOpen size={13} class="opacity-40" />{/if}</button
                >
                <button
                  class="hover:bg-faint rounded p-1 {ask.done ? 'text-ink' : 'text-mute'}"
                  title={ask.done ? 'Reopen (d)' : 'Mark done with all stops before it (d)'}
                  aria-label="{name(s)} {ask.done ? 'not done' : 'done'}"
                  onclick={() => mark(s, !ask.done, undefined)}
                  ><Check size={13} class={ask.done ? '' : 'opacity-40'} /></button
                >
              {/if}
            </li>
          {/each}
        </ol>
      </section>
    {/each}
    {#if chosen !== null && may && !plan.ask.stops![chosen]?.done}
      <div class="border-line bg-paper sticky bottom-0 mt-3 rounded-md border p-3 text-sm">
        <p class="mb-1.5"><b>{name(chosen)}</b> moves to</p>
        <div class="flex flex-wrap items-center gap-2">
          <select
            class="border-line bg-panel h-8 rounded-md border px-2"
            aria-label="Driver"
            value={String(trying?.driver ?? plan.runs.find((r) => r.stops.includes(chosen))?.driver ?? 0)}
            onchange={(e) => void offer(chosen, Number(e.currentTarget.value), 0)}
            >{#each plan.runs as r (r.driver)}<option value={String(r.driver)}>driver {letter(r.driver)}</option
              >{/each}</select
          >
          <select
            class="border-line bg-panel h-8 max-w-56 rounded-md border px-2"
            aria-label="Before"
            value={String(trying?.place ?? '')}
            onchange={(e) =>
              void offer(
                chosen,
                trying?.driver ?? plan.runs.find((r) => r.stops.includes(chosen))?.driver ?? 0,
                Number(e.currentTarget.value),
              )}
            ><option value="" disabled>before …</option
            >{#each (plan.runs[trying?.driver ?? plan.runs.findIndex( (r) => r.stops.includes(chosen) )]?.stops ?? []).filter((s) => s !== chosen) as s, i (s)}<option
                value={String(i)}>before {name(s)}</option
              >{/each}<option
              value={String(
                (plan.runs[trying?.driver ?? plan.runs.findIndex((r) => r.stops.includes(chosen))]?.stops ?? []).filter(
                  (s) => s !== chosen,
                ).length,
              )}>at the end</option
            ></select
          >
          {#if trying && cost}
            <span class="fig font-bold">{said(cost)}</span>
            <Button small look="main" busy={busy === 'move'} onclick={move}>Move</Button>
          {/if}
          <span class="text-mute ml-auto">Alt ↑ ↓, Enter</span>
        </div>
        {#if cost?.breaks}<p class="text-ember-word mt-1">{cost.breaks}</p>{/if}
      </div>
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
        <div class="bg-paper border-line mt-2 grid grid-cols-6 gap-2 rounded-md border p-3">
          <TextField class="col-span-2" label="Name" bind:value={called} maxlength={120} />
          <PlaceField class="col-span-4" label="Address" required bind:value={place} problem={refused?.at('stop.at')} />
          <TextField
            class="col-span-2"
            label="Service time, minutes"
            inputmode="numeric"
            bind:value={service}
            problem={refused?.at('stop.service')}
          />
          <TextField class="col-span-2" label="Opens" bind:value={opens} placeholder="08:00" />
          <TextField
            class="col-span-2"
            label="Closes"
            bind:value={closes}
            placeholder="12:00"
            problem={refused?.at('stop.closes')}
          />
          <div class="col-span-6 flex items-center gap-2">
            <Button small look="main" disabled={!place} busy={busy === 'insert'} onclick={() => insert(false)}
              >Insert at lowest cost</Button
            >
            <Button small look="quiet" disabled={!place} onclick={() => insert(true)}>Show cost</Button>
            {#if where}<span class="fig text-sm font-bold">{said(where)}, {letter(where.driver)}{where.place + 1}</span
              >{#if where.breaks}<span class="text-ember-word text-sm">{where.breaks}</span>{/if}{/if}
          </div>
        </div>
      {/if}
    {/if}
  {/if}
</div>
