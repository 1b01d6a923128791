<script lang="ts">
  import { api, moneyKey, take, type Schemas } from '$lib/api/client';
  import { cents, figure } from '$lib/money';
  import { methodNames } from '$lib/loads/labels';
  import { onChange } from '$lib/state/change.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDay } from '$lib/time/when';
  import { inCurrency } from '$ui/currency';
  import Button from '$ui/Button.svelte';
  import RefundForm from './RefundForm.svelte';
  import { creditReasons } from './kinds';

  /** A payment received: its applications, its unapplied credit, and its reversal. */
  interface Props {
    id: number;
    oninvoice: (id: number) => void;
  }
  let { id, oninvoice }: Props = $props();
  let view = $state<Schemas['PaymentView'] | null>(null);
  let busy = $state(false);
  let refunding = $state(false);
  inCurrency(() => view?.payment.amount?.currency);
  const load = async () => {
    view = await take(api.GET('/api/payments/{id}', { params: { path: { id } } })).catch((e) => {
      showError(e);
      return null;
    });
  };
  onChange(
    () => id,
    () => {
      view = null;
      void load();
      return live.follow(load, ['payments']);
    },
  );
  async function run(act: () => Promise<string>) {
    busy = true;
    try {
      showDone(await act());
      await load();
    } catch (e) {
      showError(e);
    } finally {
      busy = false;
    }
  }
  const useCredit = () =>
    run(async () => {
      const done = await take(
        api.POST('/api/payments/{id}/use-credit', {
          params: { path: { id } },
          body: { applications: null },
          headers: moneyKey(),
        }),
      );
      return `${figure(done.applied)} of ${done.customer}’s credit applied, oldest due first.`;
    });
  const reverseRefund = (refund: number) =>
    run(async () => {
      await take(api.POST('/api/refunds/{id}/reverse', { params: { path: { id: refund } }, headers: moneyKey() }));
      return 'Refund reversed.';
    });
  const reverse = () =>
    run(async () => {
      await take(api.POST('/api/payments/{id}/reverse', { params: { path: { id } }, headers: moneyKey() }));
      return view?.payment.memo ? 'Credit memo reversed.' : 'Payment reversed.';
    });
</script>

{#if !view}<p class="text-mute p-5" role="status">Loading …</p>
{:else}
  {@const p = view.payment}
  <div class="px-5 pt-4 pb-8">
    <h2 class="pr-8 text-lg">
      <span class="fig font-bold">{figure(p.amount)}</span>
      {p.memo ? 'credited to' : 'from'}
      {p.customer}
    </h2>
    <p class="text-mute text-sm">
      {methodNames[p.method] ?? p.method}
      {p.reference ?? ''}, {p.memo ? '' : 'received '}{formatDay(p.receivedOn)}
    </p>
    {#if p.memo}
      <p class="mt-1 text-sm">
        For invoice <button class="text-lark hover:underline" onclick={() => oninvoice(p.memo!.invoiceId)}
          >{p.memo.invoice}</button
        >, {creditReasons[p.memo.reason]}: {p.memo.why}
      </p>
      <a
        class="text-lark text-sm font-bold hover:underline"
        href="/api/payments/{p.id}/credit-memo"
        target="_blank"
        rel="noopener">Open PDF</a
      >
    {/if}
    {#if p.reversedAt}<p class="text-ember-word mt-2 font-bold">Reversed.</p>{/if}
    <dl class="my-4 grid grid-cols-[1fr_auto] gap-y-1">
      {#each view.appliedTo as a (a.invoiceId)}
        <dt>
          Invoice <button class="text-lark hover:underline" onclick={() => oninvoice(a.invoiceId)}>{a.number}</button>
        </dt>
        <dd class="fig text-right">{figure(a.amount)}</dd>
      {/each}
      {#each view.refunds as r (r.id)}
        <dt class={r.stands ? '' : 'text-mute line-through'}>
          Refunded {formatDay(r.paidOn)}, {methodNames[r.method] ?? r.method}
          {r.reference ?? ''}: {r.reason}
          {#if r.stands && session.may('paying.pay')}<button
              class="text-lark hover:underline"
              onclick={() => reverseRefund(r.id)}>Reverse</button
            >{/if}
        </dt>
        <dd class="fig text-right {r.stands ? '' : 'text-mute line-through'}">{figure(r.amount)}</dd>
      {/each}
      {#if !p.reversedAt && cents(p.unapplied)}
        <dt class="text-marigold-word">Unapplied credit</dt>
        <dd class="fig text-marigold-word text-right">{figure(p.unapplied)}</dd>
      {/if}
    </dl>
    {#if session.may('billing.receive') && !p.reversedAt}
      <div class="flex gap-2">
        {#if cents(p.unapplied)}<Button look="main" {busy} onclick={useCredit}>Apply credit</Button>{/if}
        {#if cents(p.unapplied) && session.may('paying.pay')}<Button {busy} onclick={() => (refunding = !refunding)}
            >Refund</Button
          >{/if}
        <Button {busy} onclick={reverse}>Reverse {p.memo ? 'credit memo' : 'payment'}</Button>
      </div>
      {#if refunding}
        <RefundForm
          payment={p}
          ondone={() => {
            refunding = false;
            void load();
          }}
          oncancel={() => (refunding = false)}
        />
      {/if}
      <p class="text-mute mt-2 text-sm">Reversed: its invoices are open again, and the ledger keeps both entries.</p>
    {/if}
  </div>
{/if}
