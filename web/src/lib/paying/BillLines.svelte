<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { cents, figure } from '$lib/money';
  import { onChange } from '$lib/state/change.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import ChargeBack from './ChargeBack.svelte';

  /** A bill's lines by account, with what was charged back of each to owner-operators. */
  let { view, onchanged }: { view: Schemas['BillView']; onchanged: () => void } = $props();
  const bill = $derived(view.bill);
  /** The line being charged back. */
  let charging = $state<number | null>(null);
  let leased = $state(false);
  const may = $derived(session.may('paying.enter') && !bill.voidedAt && !bill.legId);
  $effect(() => {
    if (may)
      take(api.GET('/api/fleet'))
        .then((f) => (leased = f.drivers.some((d) => d.active && d.worker === 'owner_operator')))
        .catch(showError);
  });
  onChange(
    () => bill.id,
    () => {
      charging = null;
    },
  );
</script>

<dl class="grid grid-cols-[auto_1fr_auto] gap-x-3 gap-y-1">
  {#each view.lines as line (line.line)}
    <dt class="fig text-mute text-sm">{line.account}</dt>
    <dd class="truncate">
      {line.accountName}{line.description ? `, ${line.description}` : ''}
      <span class="text-mute text-sm"
        >{[line.loadNumber && `load ${line.loadNumber}`, line.truck && `truck ${line.truck}`, line.driver]
          .filter(Boolean)
          .join(', ')}</span
      >
    </dd>
    <dd class="fig text-right">{figure(line.amount)}</dd>
    {#if cents(line.chargedBack) > 0}
      <dt></dt>
      <dd class="text-mute text-sm">Charged back to a driver</dd>
      <dd class="fig text-mute text-right text-sm">−{figure(line.chargedBack)}</dd>
    {/if}
    {#if may && leased && cents(line.amount) > cents(line.chargedBack)}
      <dt></dt>
      <dd class="col-span-2">
        {#if charging === line.line}
          <ChargeBack
            billId={bill.id}
            {line}
            ondone={() => {
              charging = null;
              onchanged();
            }}
            oncancel={() => (charging = null)}
          />
        {:else}
          <button class="text-lark text-sm hover:underline" onclick={() => (charging = line.line)}
            >Charge back to an owner-operator</button
          >
        {/if}
      </dd>
    {/if}
  {/each}
  {#if view.lines.length > 1}
    <dt></dt>
    <dd class="font-bold">Total</dd>
    <dd class="fig text-right font-bold">{figure(bill.amount)}</dd>
  {/if}
  {#if bill.approved && !bill.spent}
    <dt></dt>
    <dd class="font-bold">Approved{bill.approvedBy ? ` by ${bill.approvedBy}` : ''}</dd>
    <dd class="fig text-right font-bold">{figure(bill.approved)}</dd>
  {/if}
</dl>
