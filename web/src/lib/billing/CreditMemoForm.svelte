<script lang="ts">
  import { api, take, type Money, type Schemas } from '$lib/api/client';
  import { chargeLabels } from '$lib/loads/labels';
  import { cents, figure, said } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import Choice from '$ui/Choice.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';
  import { creditOptions } from './kinds';

  /** Credits the customer for an invoice, paid or not. */
  let { invoice, ondone, oncancel }: { invoice: Schemas['InvoiceRow']; ondone: () => void; oncancel: () => void } =
    $props();
  let amount = $state<Money | null>(null);
  let reason = $state('');
  let charge = $state('line_haul');
  let why = $state('');
  let send = $state(true);
  const attempt = new Attempt();
  const add = () =>
    attempt.run(async (money) => {
      const memo = await take(
        api.POST('/api/invoices/{id}/credit-memos', {
          params: { path: { id: invoice.id } },
          body: {
            amount,
            reason: (reason || null) as Schemas['CreditReason'] | null,
            why: why || null,
            charge: reason === 'billing_error' ? (charge as Schemas['ChargeKind']) : null,
            send,
          },
          headers: money,
        }),
      );
      showDone(
        `Credit memo ${memo.reference} for ${said(memo.amount)}${cents(memo.unapplied) ? `, ${said(memo.unapplied)} unapplied` : ''}.`,
      );
      ondone();
    });
</script>

<InnerForm {attempt} action="Credit {said(amount)}" onact={add} {oncancel}>
  <div class="grid grid-cols-2 gap-3">
    <MoneyField
      label="Credit"
      required
      bind:value={amount}
      problem={attempt.at('amount')}
      hint={reason === 'claim' ? undefined : `at most ${figure(invoice.creditable)}`}
    />
    <Choice label="Reason" required bind:value={reason} options={creditOptions} problem={attempt.at('reason')} />
    {#if reason === 'billing_error'}
      <Choice
        label="Charge that was wrong"
        bind:value={charge}
        problem={attempt.at('charge')}
        options={Object.entries(chargeLabels)
          .filter(([value]) => value !== 'discount')
          .map(([value, label]) => ({ value, label }))}
      />
    {/if}
  </div>
  <TextField label="Explanation" required bind:value={why} maxlength={200} problem={attempt.at('why')} />
  {#if invoice.mailedTo}<label class="flex items-center gap-2 text-sm"
      ><input type="checkbox" bind:checked={send} />Email it to {invoice.mailedTo}</label
    >{/if}
</InnerForm>
