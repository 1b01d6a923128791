<script lang="ts">
  import { api, ifMatch, moneyKey, take, type Schemas } from '$lib/api/client';
  import { figure } from '$lib/money';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import { asOrders } from './carrierPay';

  /** What could be charged: waiting beyond free time, with its times, and miles of an added stop. A person decides. */
  interface Props {
    view: Schemas['LoadSheetView'];
    onchanged: () => Promise<void>;
  }
  let { view, onchanged }: Props = $props();
  const l = $derived(view.sheet.load);
  const billed = $derived(l.state === 'billed' || l.state === 'closed');
  const mayCharge = $derived(
    billed
      ? session.may('billing.invoice')
      : session.may('loads.book') && ['covered', 'rolling', 'delivered'].includes(l.state),
  );
  const mayPay = $derived(session.may('loads.cover') && !view.sheet.legs.at(-1)?.billId && l.state !== 'tendered');
  let busy = $state(false);
  async function act(done: string, send: () => Promise<unknown>) {
    busy = true;
    try {
      await send();
      showDone(done);
      await onchanged();
    } catch (e) {
      showError(e);
    } finally {
      busy = false;
    }
  }
  const reprice = (p: Schemas['MileProposal']) =>
    act(`${l.number} repriced for ${p.miles} miles.`, () =>
      take(api.POST('/api/loads/{id}/reprice', { params: { path: { id: l.id } }, headers: ifMatch(l.version) })),
    );
  const charge = (d: Schemas['DetentionView']) =>
    act(`${figure(d.amount)} of detention added to ${l.number}.`, () =>
      take(
        api.POST(billed ? '/api/loads/{id}/late-charges' : '/api/loads/{id}/charges', {
          params: { path: { id: l.id } },
          body: { charges: [{ kind: 'detention', description: d.description, amount: d.amount ?? null }] },
          headers: moneyKey(),
        }),
      ),
    );
  const pay = (d: Schemas['DetentionView']) =>
    act(`${figure(d.amount)} of detention added to the carrier pay of ${l.number}.`, () =>
      take(
        api.PUT('/api/loads/{id}/carrier-pay', {
          params: { path: { id: l.id } },
          body: {
            charges: [
              ...asOrders(view.sheet.legs.at(-1)?.charges ?? []),
              { kind: 'detention', description: d.description, amount: d.amount ?? null },
            ],
          },
          headers: ifMatch(l.version),
        }),
      ),
    );
</script>

{#if view.mileProposal}
  {@const p = view.mileProposal}
  <p class="mt-2 flex items-baseline justify-between gap-3 text-sm">
    <span
      ><b class="text-marigold-word">Charged for {p.chargedMiles} mi; the route has {p.miles}.</b>
      {#if p.after && p.before}At the same rates: {figure(p.after)}, now {figure(p.before)}.{/if}</span
    >
    {#if session.may('loads.book')}<Button small look="quiet" {busy} onclick={() => reprice(p)}
        >Reprice {figure(p.after)}</Button
      >{/if}
  </p>
{/if}
{#each [{ rows: view.customerDetention, who: 'customer', send: charge, may: mayCharge }, { rows: view.carrierDetention, who: 'carrier', send: pay, may: mayPay }] as side (side.who)}
  {#each side.rows as d (d.stopId)}
    {#if d.amount}
      <p class="mt-2 flex items-baseline justify-between gap-3 text-sm">
        <span
          ><b class="text-marigold-word">Detention, {side.who}: {figure(d.amount)}</b>
          {d.description}{d.running ? ', still there' : ''}{d.arrivedLate
            ? '; arrived after the appointment'
            : ''}</span
        >
        {#if side.may && !d.running}<Button small look="quiet" {busy} onclick={() => side.send(d)}
            >Add {figure(d.amount)}</Button
          >{/if}
      </p>
    {/if}
  {/each}
{/each}
