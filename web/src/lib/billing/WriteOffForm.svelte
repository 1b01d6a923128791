<script lang="ts">
  import { api, take, type Money, type Schemas } from '$lib/api/client';
  import { figure, said } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import Choice from '$ui/Choice.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';
  import { shortPayOptions } from './kinds';

  /** Writes off what is open of an invoice, or a part of it. */
  let { invoice, ondone, oncancel }: { invoice: Schemas['InvoiceRow']; ondone: () => void; oncancel: () => void } =
    $props();
  // The form opens with what is open then; later changes of the invoice do not overwrite what is typed.
  // svelte-ignore state_referenced_locally
  let amount = $state<Money | null>(invoice.open);
  let kind = $state('');
  let reason = $state('');
  const attempt = new Attempt();
  const send = () =>
    attempt.run(async (money) => {
      await take(
        api.POST('/api/invoices/{id}/write-off', {
          params: { path: { id: invoice.id } },
          body: { amount, kind: (kind || null) as Schemas['ShortPayReason'] | null, reason: reason || null },
          headers: money,
        }),
      );
      showDone(`${said(amount)} of ${invoice.number} written off.`);
      ondone();
    });
</script>

<InnerForm {attempt} action="Write off {said(amount)}" onact={send} {oncancel}>
  <div class="grid grid-cols-2 gap-3">
    <MoneyField
      label="Write off"
      required
      bind:value={amount}
      problem={attempt.at('amount')}
      hint="{figure(invoice.open)} open"
    />
    <Choice label="Because of" required bind:value={kind} options={shortPayOptions} problem={attempt.at('kind')} />
  </div>
  <TextField label="Reason" required bind:value={reason} maxlength={200} problem={attempt.at('reason')} />
</InnerForm>
