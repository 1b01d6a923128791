<script lang="ts">
  import type { Money, Schemas } from '$lib/api/client';
  import { cents, figure, fromCents, said } from '$lib/money';
  import type { Attempt } from '$lib/state/attempt.svelte';
  import { inCurrency } from '$ui/currency';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Notice from '$ui/Notice.svelte';
  import Picker from '$ui/Picker.svelte';
  import TextField from '$ui/TextField.svelte';
  import { missing } from '$ui/forms';
  import LaneCarriers from './LaneCarriers.svelte';

  /** A carrier at a rate, with the margin it leaves and what the lane paid before. */
  interface Props {
    load: Schemas['LoadRow'];
    choices: Schemas['CoverChoices'];
    attempt: Attempt;
    carrier: Schemas['CarrierOffer'] | null;
    pay: Money | null;
    /** Who at the carrier accepted by phone; empty to tender the load and wait. */
    acceptedBy: string;
    /** Hours to answer; empty for the company's setting. */
    hours: string;
    /** Why a carrier of one country may haul within the other; asked for when it would. */
    cabotage: string;
    oncover: () => void;
  }
  let {
    load,
    choices,
    attempt,
    carrier = $bindable(),
    pay = $bindable(),
    acceptedBy = $bindable(),
    hours = $bindable(),
    cabotage = $bindable(),
    oncover,
  }: Props = $props();
  let byCarrier = $state<HTMLFormElement>();
  inCurrency(() => carrier?.currency);
  /** Cents of US dollars, at today’s rate. */
  const inBooks = (m: Money | null | undefined) =>
    Math.round(cents(m) * (m?.currency === 'CAD' ? (choices.canadianRate ?? 1) : 1));
  const margin = $derived(pay && load.revenueInBooks ? fromCents(cents(load.revenueInBooks) - inBooks(pay)) : null);
  const percent = $derived(
    margin && cents(load.revenueInBooks) ? ((cents(margin) / cents(load.revenueInBooks)) * 100).toFixed(1) : '',
  );
  const lanePaid = $derived(
    choices.lane
      .filter((l) => l.agreed)
      .map((l) => inBooks(l.agreed))
      .sort((a, b) => a - b),
  );
  const findCarrier = (typed: string) =>
    Promise.resolve(choices.carriers.filter((c) => c.name.toLowerCase().includes(typed.toLowerCase())).slice(0, 30));
</script>

<form
  bind:this={byCarrier}
  onsubmit={(e) => {
    e.preventDefault();
    if (!carrier || !pay) missing(byCarrier!)[0]?.focus();
    else if (carrier.blocked.length === 0) oncover();
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
  <div class="mt-2 grid grid-cols-[minmax(0,1fr)_150px] gap-3">
    <TextField
      label="Accepted by phone, by"
      bind:value={acceptedBy}
      maxlength={80}
      problem={attempt.at('acceptedBy')}
      hint="Leave empty to tender it by email"
    />
    {#if !acceptedBy.trim()}<Choice
        label="Answer within"
        bind:value={hours}
        problem={attempt.at('expiresAt')}
        options={[
          { value: '', label: 'Default' },
          { value: '0.5', label: '30 minutes' },
          ...['1', '2', '4', '8', '24'].map((h) => ({ value: h, label: h === '1' ? '1 hour' : `${h} hours` })),
        ]}
      />{/if}
  </div>
  {#if cabotage || attempt.at('cabotageReason')}
    <TextField
      class="mt-2"
      label="Reason why it is allowed"
      bind:value={cabotage}
      maxlength={200}
      problem={attempt.at('cabotageReason')}
    />
  {/if}
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
        {lanePaid.length === 1 ? 'load' : 'loads'}{:else if !choices.lane.length}no carrier has run this lane yet{/if}
    </p>
  </div>
  <Button
    look="main"
    class="mt-2"
    busy={attempt.busy}
    type="submit"
    disabled={!carrier || !pay || carrier.blocked.length > 0}
    >{acceptedBy.trim() ? 'Cover with' : 'Tender to'}
    {carrier?.name ?? 'a carrier'}{pay ? ` for ${said(pay)}` : ''}</Button
  >
</form>
<LaneCarriers
  {choices}
  {carrier}
  onpick={(c) => {
    carrier = c;
    pay ??= c.lastPaid ?? null;
    attempt.refused = null;
  }}
/>
