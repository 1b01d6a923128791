<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { figure } from '$lib/money';
  import { session } from '$lib/state/session.svelte';
  import { formatDay } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Part from '$ui/Part.svelte';
  import CarrierPay from './CarrierPay.svelte';
  import Waiting from './Waiting.svelte';
  import { basisLabels, chargeLabels } from '../labels';

  /** Charges, carrier or driver pay, margin, and ledger lines. */
  interface Props {
    view: Schemas['LoadSheetView'];
    whole?: boolean;
    onchanged: () => Promise<void>;
  }
  let { view, whole = false, onchanged }: Props = $props();
  /** The leg whose carrier pay is being changed. */
  let changing = $state<number | null>(null);
  const l = $derived(view.sheet.load);
  const leg = $derived(view.sheet.legs.at(-1));
  /** What our own truck costs, part by part; parts of nothing are left out. */
  const ownParts = $derived.by((): [string, Schemas['Money'], string][] => {
    const own = view.money.own;
    if (!own) {
      return [];
    }
    const legs = view.sheet.legs.filter((x) => x.driverId);
    const loaded = legs.reduce((sum, x) => sum + (x.truckMiles ?? x.miles), 0);
    // A move that its driver's rates do not pay is worth a look.
    const unpaid = l.isMove && Number(own.driver.amount) === 0;
    const parts: [string, Schemas['Money'], string][] = [
      [
        'Driver pay',
        own.driver,
        unpaid ? 'no rate for empty miles: add extra pay' : legs.length > 1 ? `${legs.length} legs` : '',
      ],
      ['Payroll tax', own.payrollTax, ''],
      ['Fuel', own.fuel, `${loaded} mi loaded, ${view.money.emptyMiles} empty`],
      ['Tolls', own.tolls, ''],
      ['Truck', own.truck, `${view.money.truckDays} ${view.money.truckDays === 1 ? 'day' : 'days'}`],
      ['Other', own.other, ''],
    ];
    return parts.filter(([name, amount]) => Number(amount.amount) !== 0 || (unpaid && name === 'Driver pay'));
  });
  const byCarriers = $derived(view.sheet.legs.filter((x) => x.carrierId));
  const changeable = $derived(
    session.may('loads.cover') && ['covered', 'rolling', 'delivered', 'billed', 'closed'].includes(l.state)
      ? byCarriers.filter((x) => !x.billId)
      : [],
  );
  const changed = $derived(changeable.find((x) => x.id === changing));
  /** What is known of a carrier's pay besides its sum: its own currency, its charges. */
  const details = (x: Schemas['LegRow']) =>
    x.charges.length > 1
      ? x.charges.map((c) => `${chargeLabels[c.kind ?? 'other'].toLowerCase()} ${figure(c.amount)}`).join(', ')
      : '';
</script>

{#if session.may('rates.see') || view.money.cost || view.sheet.invoice}
  <Part title="Money">
    {#snippet aside()}
      {#each changeable as x (x.id)}<Button
          small
          look="quiet"
          onclick={() => (changing = changing === x.id ? null : x.id)}
          >{byCarriers.length > 1 ? `Change pay of ${x.carrier}` : 'Change carrier pay'}</Button
        >{/each}
    {/snippet}
    <div class="grid gap-x-10 gap-y-1 {whole ? 'lg:grid-cols-2' : ''}">
      {#if session.may('rates.see')}
        <dl class="grid auto-rows-min grid-cols-[1fr_auto] gap-y-1">
          {#each view.sheet.charges as charge (charge.id)}
            <dt>
              {chargeLabels[charge.kind ?? 'other']}{charge.description
                ? `, ${charge.description}`
                : ''}{#if charge.rate != null}<span class="text-mute ml-1.5 text-sm"
                  >{charge.basis === 'percent' ? charge.rate : charge.rate.toFixed(2)}
                  {basisLabels[charge.basis ?? 'flat']}{charge.minimum
                    ? `, minimum ${charge.minimum.toFixed(2)}`
                    : ''}</span
                >{/if}{#if charge.rating}<span class="text-mute block text-sm">{charge.rating.described}</span
                >{/if}{#if charge.authorization}<span class="text-mute block text-sm"
                  >authorized by {charge.authorization.by}{charge.authorization.on
                    ? ` ${formatDay(charge.authorization.on)}`
                    : ''}{charge.authorization.reference ? `, ${charge.authorization.reference}` : ''}</span
                >{/if}
            </dt>
            <dd class="fig text-right">{figure(charge.amount)}</dd>
          {:else}
            <dt class="text-mute">{l.isMove ? 'Moves are not billed' : 'No charges yet'}</dt>
            <dd></dd>
          {/each}
          {#if view.sheet.charges.length > 1}
            <dt><b>Customer pays</b></dt>
            <dd class="fig text-right font-bold">{figure(l.revenue)}</dd>
          {/if}
        </dl>
      {/if}
      {#if view.money.cost}
        <dl class="grid auto-rows-min grid-cols-[1fr_auto] gap-y-1">
          {#if l.revenue?.currency !== 'USD' && view.money.revenue}
            <dt class="text-mute">Customer pays, in US dollars</dt>
            <dd class="fig text-mute text-right">{figure(view.money.revenue)}</dd>
          {/if}
          {#if view.money.carriers}
            <dt class="text-mute">
              {#if byCarriers.length > 1}Carrier pay{#each byCarriers as x (x.id)}<span class="block text-sm"
                    >{x.carrier}
                    {figure(x.billed ?? x.agreed)}{x.billNumber ? `, bill ${x.billNumber}` : ''}{details(x)
                      ? `: ${details(x)}`
                      : ''}</span
                  >{/each}{:else}{leg?.billed
                  ? `Bill ${leg.billNumber}`
                  : l.state === 'tendered'
                    ? 'Carrier pay, tendered'
                    : 'Carrier pay, agreed'}{#if leg?.agreed && leg.agreed.currency !== 'USD'}<span
                    class="ml-1.5 text-sm">{figure(leg.billed ?? leg.agreed)}</span
                  >{/if}{#if leg && details(leg)}<span class="block text-sm">{details(leg)}</span>{/if}{/if}
            </dt>
            <dd class="fig text-mute text-right">−{figure(view.money.carriers)}</dd>
          {/if}
          {#each ownParts as [label, amount, note] (label)}
            <dt class="text-mute">
              {label}{#if note}<span class="ml-1.5 text-sm">{note}</span>{/if}
            </dt>
            <dd class="fig text-mute text-right">−{figure(amount)}</dd>
          {/each}
          <dt>
            <b>Margin</b>{#if view.money.own}<span class="text-mute ml-1.5 text-sm">expected</span>{/if}
            {#if view.money.margin?.percent != null}<span class="text-mute text-sm"
                >{view.money.margin.percent.toFixed(1)} %</span
              >{/if}
          </dt>
          <dd class="fig text-right font-bold">{figure(view.money.margin?.amount)}</dd>
        </dl>
      {/if}
    </div>
    <Waiting {view} {onchanged} />
    {#if changed}
      {#key changed.id}<CarrierPay
          load={l}
          leg={changed}
          ondone={() => {
            changing = null;
            void onchanged();
          }}
          oncancel={() => (changing = null)}
        />{/key}
    {/if}
    {#each [...(view.sheet.invoice ? [view.sheet.invoice] : []), ...view.sheet.supplements] as i (i.id)}
      <p class="text-sm first-of-type:mt-2">
        <a class="text-lark font-bold hover:underline" href="/bill?invoice={i.id}">{i.number}</a>
        {i.total ? `over ${figure(i.total)}, ` : ''}due {formatDay(i.dueOn)}{Number(i.paid?.amount ?? 0) > 0
          ? `, ${figure(i.paid)} paid`
          : ''}
      </p>
    {/each}
    {#each session.may('paying.see') ? byCarriers.filter((x) => x.billId) : [] as x (x.id)}
      <p class="text-sm">
        <a class="text-lark font-bold hover:underline" href="/pay?tab=bills&bill={x.billId}">Bill {x.billNumber}</a>
        from {x.carrier}{x.billPaidOn ? `, paid ${formatDay(x.billPaidOn)}` : ''}
      </p>
    {/each}
    {#if session.may('ledger.see') && (l.state === 'billed' || l.state === 'closed' || leg?.billId || leg?.settlementId)}
      <p class="text-sm">
        <a class="text-lark hover:underline" href="/ledger?tab=lines&load={l.id}">Ledger entries</a>
      </p>
    {/if}
  </Part>
{/if}
