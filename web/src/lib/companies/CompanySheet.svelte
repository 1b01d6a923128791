<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import BillingSettings from '$lib/billing/BillingSettings.svelte';
  import { figure } from '$lib/money';
  import { session } from '$lib/state/session.svelte';
  import { formatDay } from '$lib/time/when';
  import Notice from '$ui/Notice.svelte';
  import CompanyForm from './CompanyForm.svelte';
  import RemitTo from './RemitTo.svelte';

  /** A company: what it is to us, what is owed, and its settings. */
  let { view, onchanged }: { view: Schemas['CompanyView']; onchanged: () => void } = $props();
  const c = $derived(view.company);
</script>

<div class="px-5 pt-4 pb-8">
  <h2 class="pr-8 text-lg font-bold">{c.name}</h2>
  <p class="text-mute text-sm">
    {[c.isCustomer && 'customer', c.isCarrier && 'carrier', c.isVendor && 'vendor']
      .filter(Boolean)
      .join(' and ')}{c.town ? `, ${c.town} ${c.region ?? ''}` : ''}
  </p>
  {#if c.carrier?.unfit}<div class="mt-3">
      <Notice title={c.carrier.unfit}>{c.carrier.doNotUse ?? 'This carrier cannot be assigned loads.'}</Notice>
    </div>{/if}
  <dl class="my-4 grid grid-cols-[1fr_auto] gap-y-1">
    <dt>Loads, open loads</dt>
    <dd class="fig text-right">{view.balances.loads}, {view.balances.loadsOpen}</dd>
    {#if c.isCustomer && session.may('billing.see')}
      <dt>Owes us</dt>
      <dd class="fig text-right font-bold">{figure(view.balances.owesUs)}</dd>
      <dt>Past due</dt>
      <dd class="fig text-right">{figure(view.balances.overdueToUs)}</dd>
    {/if}
    {#if (c.isCarrier || c.isVendor) && session.may('paying.see')}
      <dt>We owe</dt>
      <dd class="fig text-right font-bold">{figure(view.balances.weOwe)}</dd>
    {/if}
    {#if c.carrier}
      <dt>Liability insurance expires</dt>
      <dd class="text-right">{c.carrier.liabilityUntil ? formatDay(c.carrier.liabilityUntil) : 'not on file'}</dd>
      <dt>Cargo insurance expires</dt>
      <dd class="text-right">{c.carrier.cargoUntil ? formatDay(c.carrier.cargoUntil) : 'not on file'}</dd>
    {/if}
  </dl>
  {#if session.may('ledger.see')}<p class="mb-4 text-sm">
      <a class="text-lark hover:underline" href="/ledger?tab=lines&company={c.id}">Ledger entries</a>
    </p>{/if}
  {#if (c.isCarrier || c.isVendor) && session.may('paying.see')}<RemitTo companyId={c.id} name={c.name} />{/if}
  {#if c.isCustomer && session.may('billing.see')}<BillingSettings customerId={c.id} currency={c.currency} />{/if}
  {#if session.may('companies.edit')}
    <CompanyForm edit={c} onmade={onchanged} />
  {/if}
</div>
