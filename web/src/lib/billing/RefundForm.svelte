<script lang="ts">
  import { api, take, type Money, type Schemas } from '$lib/api/client';
  import { methodLabels } from '$lib/loads/labels';
  import { figure, said } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { options } from '$lib/words';
  import Choice from '$ui/Choice.svelte';
  import DateField from '$ui/DateField.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';

  /** Pays back a customer's unapplied credit. */
  let { payment, ondone, oncancel }: { payment: Schemas['PaymentRow']; ondone: () => void; oncancel: () => void } =
    $props();
  // The form opens with the credit of that moment; later changes do not overwrite what is typed.
  // svelte-ignore state_referenced_locally
  let amount = $state<Money | null>(payment.unapplied);
  let on = $state(session.today);
  let method = $state('check');
  let reference = $state('');
  let reason = $state('');
  const attempt = new Attempt();
  const send = () =>
    attempt.run(async (money) => {
      await take(
        api.POST('/api/payments/{id}/refund', {
          params: { path: { id: payment.id } },
          body: { amount, paidOn: on || null, method, reference: reference || null, reason: reason || null },
          headers: money,
        }),
      );
      showDone(`${said(amount)} refunded to ${payment.customer}.`);
      ondone();
    });
</script>

<InnerForm {attempt} action="Refund {said(amount)}" onact={send} {oncancel}>
  <div class="grid grid-cols-2 gap-3">
    <MoneyField
      label="Refund"
      required
      bind:value={amount}
      problem={attempt.at('amount')}
      hint="{figure(payment.unapplied)} unapplied"
    />
    <DateField label="Paid on" bind:value={on} problem={attempt.at('paidOn')} />
    <Choice label="Method" bind:value={method} problem={attempt.at('method')} options={options(methodLabels)} />
    <TextField label="Reference" bind:value={reference} maxlength={80} problem={attempt.at('reference')} />
  </div>
  <TextField label="Reason" required bind:value={reason} maxlength={200} problem={attempt.at('reason')} />
</InnerForm>
