<script lang="ts">
  import { api, ifMatch, take, type Money, type Schemas } from '$lib/api/client';
  import { cents, figure, fromCents, said } from '$lib/money';
  import { live } from '$lib/state/live.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { localAt, formatLocal, formatDate, formatTime, formatDay } from '$lib/time/when';
  import { rows } from '$ui/rows';
  import AxisHead from '$ui/AxisHead.svelte';
  import AxisLines from '$ui/AxisLines.svelte';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Notice from '$ui/Notice.svelte';
  import Picker from '$ui/Picker.svelte';
  import { xOf, type Axis } from '$ui/axis';
  import { isPlain } from '$ui/keys';

  interface Props {
    view: Schemas['LoadSheetView'];
    oncovered?: () => void;
  }
  let { view, oncovered }: Props = $props();
  const load = $derived(view.sheet.load);
  let choices = $state<Schemas['CoverChoices'] | null>(null);
  let way = $state<'ours' | 'carrier'>('ours');
  let driver = $state<Schemas['DriverOffer'] | null>(null);
  let truck = $state('');
  let trailer = $state('');
  let carrier = $state<Schemas['CarrierOffer'] | null>(null);
  let pay = $state<Money | null>(null);
  const attempt = new Attempt();
  let all = $state(false);

  async function look() {
    const { data } = await api
      .GET('/api/loads/{id}/choices', { params: { path: { id: load.id } } })
      .catch(() => ({ data: undefined }));
    choices = data ?? null;
  }
  $effect(() => {
    void load.id;
    choices = null;
    driver = null;
    carrier = null;
    pay = null;
    attempt.refused = null;
    void look();
    return live.follow(look, ['loads', 'companies', 'fleet']);
  });

  const width = 190;
  const instead = $derived(load.state === 'covered');
  const shownDrivers = $derived((choices?.drivers ?? []).slice(0, all ? 100 : 5));
  const axis = $derived<Axis>({
    from: session.now - 6 * 3_600_000,
    until: Math.max(
      session.now + 66 * 3_600_000,
      Date.parse(choices?.until ?? '') + 8 * 3_600_000 || 0,
      // Round trips of the drivers shown, up to five days.
      Math.min(
        session.now + 120 * 3_600_000,
        ...[Math.max(0, ...shownDrivers.map((d) => Date.parse(d.roundTrip?.homeAt ?? '') + 4 * 3_600_000 || 0))],
      ),
    ),
    width,
  });
  const margin = $derived(pay && load.revenue ? fromCents(cents(load.revenue) - cents(pay)) : null);
  const percent = $derived(
    margin && cents(load.revenue) ? ((cents(margin) / cents(load.revenue)) * 100).toFixed(1) : '',
  );
  const ran = $derived((choices?.carriers ?? []).filter((c) => c.loadsRun > 0).slice(0, 8));
  const lanePaid = $derived(
    (choices?.lane ?? [])
      .filter((l) => l.agreed)
      .map((l) => cents(l.agreed))
      .sort((a, b) => a - b),
  );
  const truckUnit = $derived(choices?.trucks.find((t) => String(t.id) === truck)?.unit);
  const trailerUnit = $derived(choices?.trailers.find((t) => String(t.id) === trailer)?.unit);

  function pick(d: Schemas['DriverOffer']) {
    driver = d;
    attempt.refused = null;
    way = 'ours';
    const free = (list: Schemas['UnitOffer'][], last: number | null) =>
      String((list.find((u) => u.id === last && !u.blocked) ?? list.find((u) => !u.blocked))?.id ?? '');
    truck = free(choices!.trucks, d.lastTruckId);
    trailer = free(choices!.trailers, d.lastTrailerId);
  }
  async function cover(act: () => Promise<Schemas['CoverAnswer']>) {
    await attempt.run(async () => {
      const done = await act();
      showDone(
        done.mailTo
          ? `${done.number} assigned to ${done.who}; rate confirmation sent to ${done.mailTo}.`
          : `${done.number} assigned to ${done.who}, trip ${done.trip}.`,
        () => take(api.POST('/api/loads/{id}/unassign', { params: { path: { id: load.id } } })),
      );
      oncovered?.();
    });
    if (attempt.refused) await look();
  }
  const coverByDriver = () =>
    cover(() =>
      take(
        api.POST('/api/loads/{id}/cover/driver', {
          params: { path: { id: load.id } },
          body: {
            driverId: driver!.driverId,
            truckId: Number(truck) || null,
            trailerId: Number(trailer) || null,
            reassign: instead,
          },
          headers: ifMatch(load.version),
        }),
      ),
    );
  const coverByCarrier = () =>
    cover(() =>
      take(
        api.POST('/api/loads/{id}/cover/carrier', {
          params: { path: { id: load.id } },
          body: { carrierId: carrier?.id ?? null, pay, reassign: instead },
          headers: ifMatch(load.version),
        }),
      ),
    );
  let panel = $state<HTMLElement>();
  /** c: carriers; o: our drivers. */
  function key(e: KeyboardEvent) {
    if (!isPlain(e) || (e.key !== 'c' && e.key !== 'o')) return;
    e.preventDefault();
    way = e.key === 'c' ? 'carrier' : 'ours';
    attempt.refused = null;
    // Available drivers can still be requested.
    const focus = (tries: number) => {
      const field = panel?.querySelector<HTMLElement>(way === 'carrier' ? 'input' : 'button[aria-pressed]');
      if (field) field.focus();
      else if (tries > 0) setTimeout(() => focus(tries - 1), 100);
    };
    setTimeout(() => focus(50), 30);
  }
  let byCarrier = $state<HTMLFormElement>();
  const findCarrier = (typed: string) =>
    Promise.resolve(
      (choices?.carriers ?? []).filter((c) => c.name.toLowerCase().includes(typed.toLowerCase())).slice(0, 30),
    );
</script>

<svelte:window onkeydown={key} />

{#snippet empty(from: number, until: number)}
  <line x1={from} x2={until} y1="18" y2="18" stroke="var(--mute)" stroke-width="1.6" stroke-dasharray="4 3" />
{/snippet}
{#snippet hauled(from: number, until: number, colour: string)}
  <path d="M{from} 9v9H{until}v9" fill="none" stroke={colour} stroke-width="1.8" />
  <circle cx={from} cy="8" r="3.4" fill="var(--panel)" stroke={colour} stroke-width="1.6" />
  <circle cx={until} cy="28" r="3.4" fill="var(--panel)" stroke={colour} stroke-width="1.6" />
{/snippet}

<section class="border-line mx-5 border-t py-3" aria-label="Cover this load" bind:this={panel}>
  <div class="mb-2 flex gap-4" role="tablist" aria-label="Assign to">
    {#each [['ours', 'Our drivers'], ['carrier', 'Carrier']] as [id, label] (id)}
      <button
        role="tab"
        aria-selected={way === id}
        class="border-b-2 {way === id ? 'border-lark font-bold' : 'text-mute border-transparent'}"
        onclick={() => {
          way = id as typeof way;
          attempt.refused = null;
        }}>{label}</button
      >
    {/each}
  </div>

  {#if choices?.undoes.length}
    <div class="mb-2">
      <Notice urgency="soon" title="Reassign"
        >{#each choices.undoes as said (said)}<p>{said}</p>{/each}</Notice
      >
    </div>
  {/if}
  {#if !choices}
    <p class="text-mute text-sm" role="status">Finding available drivers …</p>
  {:else if way === 'ours'}
    <div class="relative">
      <div class="grid grid-cols-[150px_190px_minmax(0,1fr)]">
        <span></span><AxisHead {axis} /><span class="text-mute self-end pb-1 text-right text-[11px]"
          >margin per day, round trip · empty miles</span
        >
      </div>
      <div class="relative" use:rows>
        <div class="pointer-events-none absolute inset-y-0 left-[150px] w-[190px]"><AxisLines {axis} /></div>
        {#each shownDrivers as d (d.driverId)}
          <button
            class="border-line relative grid w-full grid-cols-[150px_190px_minmax(0,1fr)] items-center border-b py-1 text-left {driver?.driverId ===
            d.driverId
              ? 'bg-lark-tint/80'
              : 'hover:bg-faint/60'}"
            aria-pressed={driver?.driverId === d.driverId}
            onclick={() => pick(d)}
          >
            <span class="min-w-0 pl-1">
              <span class="block truncate font-bold">{d.name}</span>
              <span class="text-mute block truncate text-sm"
                >{d.freeAt && Date.parse(d.freeAt) > session.now
                  ? `${formatDay(localAt(d.freeAt, session.zone)).slice(0, 3)} ${formatTime(localAt(d.freeAt, session.zone))}, `
                  : 'in '}{d.freeTown}</span
              >
            </span>
            <svg {width} height="36" class="overflow-hidden" aria-hidden="true">
              {#each d.commitments as p (p.trip)}
                <line
                  x1={xOf(axis, Date.parse(p.from))}
                  x2={xOf(axis, Date.parse(p.until))}
                  y1="18"
                  y2="18"
                  stroke="var(--ink)"
                  stroke-width={p.underWay ? 4 : 1.8}
                />
              {/each}
              {#if d.emptyMiles !== null && !d.blocked}
                {@render empty(
                  Math.max(0, xOf(axis, Date.parse(choices.from) - (d.emptyMiles / 52) * 3_600_000)),
                  xOf(axis, Date.parse(choices.from)),
                )}
              {/if}
              {#if !d.blocked}
                {@const end = xOf(axis, Date.parse(choices.until))}
                {@render hauled(xOf(axis, Date.parse(choices.from)), end, 'var(--ink)')}
                {#if d.roundTrip}
                  {@const home = xOf(axis, Date.parse(d.roundTrip.homeAt))}
                  {#if d.roundTrip.backBegins && d.roundTrip.backEnds}
                    {@const back = xOf(axis, Date.parse(d.roundTrip.backBegins))}
                    {@const done = xOf(axis, Date.parse(d.roundTrip.backEnds))}
                    {@render empty(end, back)}
                    {@render hauled(back, done, 'var(--lark)')}
                    {@render empty(done, home)}
                  {:else}{@render empty(end, home)}{/if}
                  <path
                    d="M{home - 4} 23v-7l4 -4l4 4v7z"
                    fill="var(--panel)"
                    stroke="var(--ink)"
                    stroke-width="1.5"
                    stroke-linejoin="round"
                  />
                {/if}
              {/if}
            </svg>
            <span class="min-w-0 text-right">
              {#if d.blocked}
                <span class="text-ember-word block text-sm font-bold">not available</span>
                <span class="text-mute line-clamp-2 block text-sm leading-tight">{d.blocked}</span>
              {:else}
                <span class="fig block font-bold">{figure(d.roundTrip?.perDay ?? d.margin?.amount)}</span>
                <span class="text-mute block truncate text-sm"
                  >{d.emptyMiles ?? '?'} mi empty{d.freeWhere ? `, ${d.freeWhere}` : ''}{d.roundTrip
                    ? d.roundTrip.backNumber
                      ? `, ${d.roundTrip.backNumber} back`
                      : ', no return load'
                    : ''}</span
                >
              {/if}
            </span>
          </button>
        {/each}
      </div>
      {#if choices.drivers.length > 5}<Button small look="quiet" class="mt-1" onclick={() => (all = !all)}
          >{all ? 'Show the best five' : `Show all ${choices.drivers.length}`}</Button
        >{/if}
    </div>
    {#if driver}
      <div class="mt-3 grid grid-cols-2 gap-3">
        <Choice
          label="Truck"
          bind:value={truck}
          problem={attempt.at('truckId')}
          options={[
            { value: '', label: 'Choose a truck' },
            ...choices.trucks.map((t) => ({
              value: String(t.id),
              label: t.blocked ? `${t.unit}, ${t.blocked}` : t.unit,
            })),
          ]}
        />
        <Choice
          label="Trailer"
          bind:value={trailer}
          problem={attempt.at('trailerId')}
          options={[
            { value: '', label: 'Choose a trailer' },
            ...choices.trailers.map((t) => ({
              value: String(t.id),
              label: t.blocked ? `${t.unit}, ${t.blocked}` : t.unit,
            })),
          ]}
        />
      </div>
      {#if attempt.refused && (attempt.refused.at('driverId') || attempt.refused.general)}
        <div class="mt-2">
          <Notice title="Not allowed">{attempt.refused.at('driverId') ?? attempt.refused.general}</Notice>
        </div>
      {/if}
      <p class="text-mute mt-2 text-sm">
        {#if driver.pay}Driver pay {figure(driver.pay)}{/if}{#if driver.margin}{driver.pay ? '; ' : ''}margin {figure(
            driver.margin.amount,
          )}{driver.margin.percent !== null ? `, ${driver.margin.percent.toFixed(1)} %` : ''}, before fuel and truck
          costs.{/if}
      </p>
      {#if driver.roundTrip}
        <p class="text-mute text-sm">
          {#if driver.roundTrip.backLoadId}Back with <a
              class="text-lark underline"
              href="/load/{driver.roundTrip.backLoadId}">{driver.roundTrip.backNumber}</a
            >
            {driver.roundTrip.backLane?.replace(' to ', ' → ')}, picked up {formatLocal(
              localAt(driver.roundTrip.backBegins!, session.zone),
            )};{:else}No open load covers the trip back;{/if}
          home {formatLocal(localAt(driver.roundTrip.homeAt, session.zone))}, {driver.roundTrip.emptyMiles} empty mi total
          (estimated).
        </p>
      {/if}
      <Button look="main" class="mt-2" busy={attempt.busy} onclick={coverByDriver}
        >Assign to {driver.name}{truckUnit ? `, truck ${truckUnit}` : ''}{trailerUnit
          ? `, trailer ${trailerUnit}`
          : ''}</Button
      >
    {:else}
      <p class="text-mute mt-2 text-sm">
        Choose a driver. They would be assigned from {formatLocal(localAt(choices.from, session.zone))} to {formatLocal(
          localAt(choices.until, session.zone),
        )} (estimated).
      </p>
    {/if}
  {:else}
    <form
      bind:this={byCarrier}
      onsubmit={(e) => {
        e.preventDefault();
        // Enter goes to what is missing, then covers.
        if (!carrier || !pay) byCarrier?.querySelectorAll('input')[carrier ? 1 : 0].focus();
        else if (carrier.blocked.length === 0) void coverByCarrier();
      }}
    >
      <div class="grid grid-cols-[minmax(0,1fr)_150px] gap-3">
        <Picker
          label="Carrier"
          bind:value={carrier}
          find={findCarrier}
          name={(c) => c.name}
          detail={(c) =>
            c.blocked.length ? 'not allowed' : c.loadsRun ? `ran it ${c.loadsRun}×, ${figure(c.lastPaid)}` : ''}
          key={(c) => c.id}
          required
          onchosen={(c) => {
            attempt.refused = null;
            if (c && c.blocked.length === 0) setTimeout(() => byCarrier?.querySelectorAll('input')[1].focus(), 0);
          }}
        />
        <MoneyField label="Pay" bind:value={pay} required big problem={attempt.at('pay')} />
      </div>
      {#if carrier && carrier.blocked.length > 0}
        <div class="mt-2">
          <Notice title="{carrier.name} is not allowed"
            >{#each carrier.blocked as why (why)}<p>{why}</p>{/each}</Notice
          >
        </div>
      {:else if attempt.refused && (attempt.refused.at('carrierId') || attempt.refused.general)}
        <div class="mt-2">
          <Notice title="Not allowed"
            >{#each attempt.refused.problems as p (p.message)}<p>{p.message}</p>{/each}</Notice
          >
        </div>
      {/if}
      <div class="mt-2 flex items-baseline justify-between gap-3">
        <p>
          {#if margin}Margin <b class="fig {cents(margin) < 0 ? 'text-ember-word' : ''}">{figure(margin)}</b>
            <span class="text-mute">{percent} %</span>{:else}<span class="text-mute"
              >{load.revenue ? `of ${figure(load.revenue)} from the customer` : ''}</span
            >{/if}
        </p>
        <p class="text-mute text-right text-sm">
          {#if lanePaid.length}{figure(fromCents(lanePaid[0]))} least, {figure(
              fromCents(lanePaid[Math.floor((lanePaid.length - 1) / 2)]),
            )} median, {figure(fromCents(lanePaid.at(-1)!))} highest paid here, {lanePaid.length}
            {lanePaid.length === 1 ? 'load' : 'loads'}{:else if !choices?.lane.length}no carrier has run this lane yet{/if}
        </p>
      </div>
      <Button
        look="main"
        class="mt-2"
        busy={attempt.busy}
        type="submit"
        disabled={!carrier || !pay || carrier.blocked.length > 0}
        >Cover with {carrier?.name ?? 'a carrier'}{pay ? ` for ${said(pay)}` : ''}</Button
      >
    </form>
    {#if ran.length > 0}
      <h4 class="text-mute mt-4 mb-1 text-sm font-bold">Carriers on this lane</h4>
      <ul>
        {#each ran as c (c.id)}
          <li class="border-line border-b">
            <button
              class="flex w-full items-baseline gap-3 py-1 text-left {carrier?.id === c.id
                ? 'bg-lark-tint/80'
                : 'hover:bg-faint/60'}"
              aria-pressed={carrier?.id === c.id}
              onclick={() => {
                carrier = c;
                pay ??= c.lastPaid ?? null;
                attempt.refused = null;
              }}
            >
              <span class="min-w-0 flex-1 truncate font-bold {c.blocked.length ? 'text-mute line-through' : ''}"
                >{c.name}</span
              >
              <span class="fig text-mute text-sm">{c.phone ?? ''}</span>
              <span class="text-mute text-sm">{c.loadsRun}×</span>
              <span class="fig">{figure(c.lastPaid)}</span>
            </button>
          </li>
        {/each}
      </ul>
    {/if}
    {#if choices.lane.length > 0}
      <h4 class="text-mute mt-3 mb-1 text-sm font-bold">Lane history</h4>
      <ul class="text-sm">
        {#each choices.lane.slice(0, 8) as l (l.loadNumber)}
          <li class="border-faint flex justify-between border-b py-0.5">
            <span class="fig font-bold">{l.loadNumber}</span><span class="flex-1 truncate px-3">{l.carrier}</span><span
              class="text-mute pr-3">{formatDate(l.on)}</span
            ><span class="fig">{figure(l.agreed)}</span>
          </li>
        {/each}
      </ul>
    {/if}
  {/if}
</section>
