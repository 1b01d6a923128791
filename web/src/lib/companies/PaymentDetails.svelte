<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { Draft } from '$lib/state/draft.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import TextField from '$ui/TextField.svelte';
  import BankFields from './BankFields.svelte';

  /** Where customers pay us, printed on invoices; ACH files are drawn on the same account. */
  let f = $state<Record<keyof Schemas['PaymentDetails'], string> | null>(null);
  const attempt = new Attempt();
  const show = (d: Schemas['PaymentDetails']) =>
    (f = {
      remitAddress: d.remitAddress ?? '',
      taxId: d.taxIdFormatted ?? '',
      taxIdFormatted: '',
      bankName: d.bankName ?? '',
      routing: d.routing ?? '',
      account: d.account ?? '',
      gstNumber: d.gstNumber ?? '',
    });
  $effect(() => {
    take(api.GET('/api/company/payment-details')).then(show).catch(showError);
  });
  const kept = new Draft(
    () => 'payment details',
    () => ({ f }),
    (v) => ({ f } = v),
    () => f !== null,
  );
  const save = () =>
    attempt.run(async () => {
      const d = f!;
      const saved = await take(
        api.PUT('/api/company/payment-details', {
          body: {
            remitAddress: d.remitAddress || null,
            taxId: d.taxId || null,
            bankName: d.bankName || null,
            routing: d.routing || null,
            account: d.account || null,
            gstNumber: d.gstNumber || null,
          },
        }),
      );
      kept.done();
      show(saved);
      showDone('Payment details saved.');
    });
</script>

{#if f}
  <form
    class="border-line mx-5 mb-4 grid max-w-2xl grid-cols-6 gap-3 border-b pt-2 pb-4"
    onsubmit={(e) => {
      e.preventDefault();
      void save();
    }}
  >
    <DraftNotice draft={kept} class="col-span-6" />
    <h2 class="col-span-6 font-bold">How customers pay us</h2>
    <TextField
      class="col-span-4"
      label="Remit-to address for checks"
      bind:value={f.remitAddress}
      hint="Leave empty for the company's address"
      problem={attempt.at('remitAddress')}
    />
    <TextField
      class="col-span-2"
      label="Tax ID (EIN)"
      bind:value={f.taxId}
      maxlength={12}
      problem={attempt.at('taxId')}
    />
    <TextField
      class="col-span-2"
      label="Bank"
      bind:value={f.bankName}
      maxlength={60}
      problem={attempt.at('bankName')}
    />
    <TextField
      class="col-span-2"
      label="GST/HST number"
      bind:value={f.gstNumber}
      maxlength={20}
      hint="On invoices in Canadian dollars"
      problem={attempt.at('gstNumber')}
    />
    <BankFields bind:routing={f.routing} bind:account={f.account} {attempt} />
    {#if attempt.refused?.general}
      <p class="text-ember-word col-span-6 text-sm" role="alert">{attempt.refused.general}</p>
    {/if}
    <div class="col-span-6"><Button look="main" type="submit" busy={attempt.busy}>Save payment details</Button></div>
  </form>
{/if}
