<script lang="ts">
  import { api, ifMatch, take, type Money, type Schemas } from '$lib/api/client';
  import { figure } from '$lib/money';
  import { onChange } from '$lib/state/change.svelte';
  import { live } from '$lib/state/live.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { localAt, formatLocal } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import Notice from '$ui/Notice.svelte';
  import TextField from '$ui/TextField.svelte';
  import { isPlain } from '$ui/keys';
  import TripOffers from '$lib/trips/TripOffers.svelte';
  import CarrierForm from './cover/CarrierForm.svelte';
  import DriverChoices from './cover/DriverChoices.svelte';

  interface Props {
    view: Schemas['LoadSheetView'];
    /** The leg to assign; the first that is open when omitted. */
    leg?: number;
    oncovered?: () => void;
  }
  let { view, leg, oncovered }: Props = $props();
  const load = $derived(view.sheet.load);
  let choices = $state<Schemas['CoverChoices'] | null>(null);
  let way = $state<'ours' | 'trip' | 'carrier'>('ours');
  let driver = $state<Schemas['DriverOffer'] | null>(null);
  let truck = $state('');
  let trailer = $state('');
  let carrier = $state<Schemas['CarrierOffer'] | null>(null);
  let acceptedBy = $state('');
  let hours = $state('');
  /** Why a hauler of one country may haul within the other; asked for when it would. */
  let cabotage = $state('');
  let pay = $state<Money | null>(null);
  const attempt = new Attempt();

  async function look() {
    const { data } = await api
      .GET('/api/loads/{id}/choices', { params: { path: { id: load.id }, query: { leg } } })
      .catch(() => ({ data: undefined }));
    choices = data ?? null;
  }
  onChange(
    () => `${load.id} ${leg}`,
    () => {
      choices = null;
      driver = null;
      carrier = null;
      pay = null;
      acceptedBy = '';
      hours = '';
      cabotage = '';
      attempt.refused = null;
      void look();
      return live.follow(look, ['loads', 'companies', 'fleet']);
    },
  );

  const meant = $derived(view.legs.find((g) => g.legId === choices?.legId));
  const instead = $derived(meant?.state === 'covered' || meant?.state === 'tendered');
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
          ? `${done.number} ${done.state === 'tendered' ? 'tendered' : 'assigned'} to ${done.who}; rate confirmation sent to ${done.mailTo}.`
          : `${done.number} assigned to ${done.who}, trip ${done.trip}.`,
        () =>
          take(api.POST('/api/loads/{id}/unassign', { params: { path: { id: load.id }, query: { leg: done.legId } } })),
      );
      oncovered?.();
    });
    if (attempt.refused) await look();
  }
  const coverByDriver = () =>
    cover(() =>
      take(
        api.POST('/api/loads/{id}/cover/driver', {
          params: { path: { id: load.id }, query: { leg: choices!.legId } },
          body: {
            driverId: driver!.driverId,
            truckId: Number(truck) || null,
            trailerId: Number(trailer) || null,
            reassign: instead,
            cabotageReason: cabotage || undefined,
          },
          headers: ifMatch(load.version),
        }),
      ),
    );
  const coverByCarrier = () =>
    cover(() =>
      take(
        api.POST('/api/loads/{id}/cover/carrier', {
          params: { path: { id: load.id }, query: { leg: choices!.legId } },
          body: {
            carrierId: carrier?.id ?? null,
            pay,
            reassign: instead,
            cabotageReason: cabotage || undefined,
            acceptedBy: acceptedBy.trim() || undefined,
            expiresAt:
              hours && !acceptedBy.trim() ? new Date(session.now + Number(hours) * 3_600_000).toISOString() : undefined,
          },
          headers: ifMatch(load.version),
        }),
      ),
    );
  let panel = $state<HTMLElement>();
  /** c: carriers; o: our drivers; t: trips that have room. */
  function key(e: KeyboardEvent) {
    const to = isPlain(e) ? ({ c: 'carrier', o: 'ours', t: 'trip' } as const)[e.key] : undefined;
    if (!to) return;
    e.preventDefault();
    way = to;
    attempt.refused = null;
    // Available drivers can still be requested.
    const focus = (tries: number) => {
      const field = panel?.querySelector<HTMLElement>(way === 'carrier' ? 'input' : 'button[aria-pressed]');
      if (field) field.focus();
      else if (tries > 0) setTimeout(() => focus(tries - 1), 100);
    };
    setTimeout(() => focus(50), 30);
  }
</script>

<svelte:window onkeydown={key} />

<section class="border-line mx-5 border-t py-3" aria-label="Cover this load" bind:this={panel}>
  {#if meant && view.legs.length > 1}<p class="mb-1 font-bold">Leg {meant.lane.replace(' to ', ' → ')}</p>{/if}
  <div class="mb-2 flex gap-4" role="tablist" aria-label="Assign to">
    {#each [['ours', 'Our drivers'], ['trip', 'Add to a trip'], ['carrier', 'Carrier']] as [id, label] (id)}
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
    <DriverChoices {choices} {driver} onpick={pick} />
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
          )}{driver.margin.percent !== null ? `, ${driver.margin.percent.toFixed(1)} %` : ''}, after fuel, truck and
          empty miles.{/if}
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
      {#if cabotage || attempt.at('cabotageReason')}
        <TextField
          class="mt-2"
          label="Reason why it is allowed"
          bind:value={cabotage}
          maxlength={200}
          problem={attempt.at('cabotageReason')}
        />
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
  {:else if way === 'trip'}
    <TripOffers load={{ id: load.id, leg: choices.legId }} onadded={() => oncovered?.()} />
  {:else}
    <CarrierForm
      {load}
      {choices}
      {attempt}
      bind:carrier
      bind:pay
      bind:acceptedBy
      bind:hours
      bind:cabotage
      oncover={coverByCarrier}
    />
  {/if}
</section>
