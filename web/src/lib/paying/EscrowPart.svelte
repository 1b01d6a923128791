<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { cents, figure, said } from '$lib/money';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDate } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Part from '$ui/Part.svelte';

  /** An owner-operator's escrow: every deposit, interest and return, and what is held. */
  let { agreement, onchanged }: { agreement: Schemas['AgreementView']; onchanged: () => void } = $props();
  const held = $derived(agreement.escrow.at(-1)?.balance ?? null);
  const goal = $derived(agreement.recurring.find((d) => d.upTo && !d.until)?.upTo ?? null);
  let returning = $state(false);
  /** All of it goes back with the next settlement; deductions the lease names are entered as pay items. */
  async function giveBack() {
    returning = true;
    try {
      await take(
        api.POST('/api/pay-items', {
          body: {
            driverId: agreement.driverId,
            kind: 'reimbursement',
            what: 'escrow returned',
            on: session.today,
            hours: null,
            amount: held,
            account: '2250',
            loadId: null,
          },
        }),
      );
      showDone(`${said(held)} of escrow is returned to ${agreement.driver} with the next settlement.`);
      onchanged();
    } catch (e) {
      showError(e);
    }
    returning = false;
  }
</script>

<Part title="Escrow">
  {#snippet aside()}
    {#if cents(held) > 0 && session.may('paying.enter')}<Button
        small
        look="quiet"
        busy={returning}
        onclick={() => void giveBack()}>Return {figure(held)}</Button
      >{/if}
  {/snippet}
  <p class="mb-1.5">
    <b class="fig">{figure(held) || '0.00'}</b> held{goal ? ` of ${figure(goal)} agreed` : ''}.
    <span class="text-mute text-sm">To be returned within 45 days of the end of the lease.</span>
  </p>
  <dl class="grid grid-cols-[auto_1fr_auto_auto] gap-x-3 gap-y-1 text-sm">
    {#each agreement.escrow as line, n (n)}
      <dt class="text-mute">{formatDate(line.on)}</dt>
      <dd class="truncate">{line.what}</dd>
      <dd class="fig text-right">{figure(line.amount)}</dd>
      <dd class="fig text-mute text-right">{figure(line.balance)}</dd>
    {/each}
  </dl>
</Part>
