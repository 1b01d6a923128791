<script lang="ts">
  import { inCurrency } from '$ui/currency';
  import { api, take, type Money, type Schemas } from '$lib/api/client';
  import { methodLabels } from '$lib/loads/labels';
  import { figure } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { options } from '$lib/words';
  import Choice from '$ui/Choice.svelte';
  import DateField from '$ui/DateField.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';
  import { outcomeOptions } from './labels';

  /** The form of one step of a claim. */
  export type Step = 'file' | 'decide' | 'carrier' | 'recover' | 'release';
  interface Props {
    claim: Schemas['ClaimRow'];
    step: Step;
    ondone: () => void;
    oncancel: () => void;
  }
  let { claim, step, ondone, oncancel }: Props = $props();
  // The form opens with what the claim says then.
  // svelte-ignore state_referenced_locally
  let amount = $state<Money | null>(step === 'carrier' || step === 'recover' ? (claim.claimed ?? null) : null);
  let on = $state(session.today);
  // svelte-ignore state_referenced_locally
  let outcome = $state(claim.filedOn ? '' : 'withdrawn');
  let method = $state('check');
  let reference = $state('');
  let why = $state('');
  const attempt = new Attempt();
  inCurrency(() => (step === 'carrier' || step === 'recover' ? claim.recovered : claim.allowed)?.currency);
  const path = $derived({ params: { path: { id: claim.id } } });
  const actions: Record<Step, string> = {
    file: 'Record claim',
    decide: 'Decide claim',
    carrier: 'File with carrier',
    recover: 'Record receipt',
    release: 'Release pay',
  };
  const send = () =>
    attempt.run(async (headers) => {
      const filedOn = on || null;
      if (step === 'file') await take(api.POST('/api/claims/{id}/file', { ...path, body: { filedOn, amount } }));
      else if (step === 'carrier')
        await take(api.POST('/api/claims/{id}/carrier', { ...path, body: { filedOn, amount } }));
      else if (step === 'decide')
        await take(
          api.POST('/api/claims/{id}/decide', {
            ...path,
            body: {
              outcome: (outcome || null) as Schemas['ClaimOutcome'] | null,
              amount: outcome === 'settled' ? amount : null,
              why: why || null,
            },
            headers,
          }),
        );
      else if (step === 'release')
        await take(api.POST('/api/claims/{id}/release', { ...path, body: { why: why || null } }));
      else
        await take(
          api.POST('/api/claims/{id}/recoveries', {
            ...path,
            body: { amount, paidOn: filedOn, method, reference: reference || null },
            headers,
          }),
        );
      showDone(`Claim ${claim.number} updated.`);
      ondone();
    });
</script>

<InnerForm {attempt} action={actions[step]} onact={send} {oncancel}>
  <div class="grid grid-cols-2 gap-3">
    {#if step === 'decide'}
      <Choice label="Outcome" required bind:value={outcome} options={outcomeOptions} problem={attempt.at('outcome')} />
    {/if}
    {#if step === 'file' || step === 'carrier' || step === 'recover' || (step === 'decide' && outcome === 'settled')}
      <MoneyField
        label={step === 'recover' ? 'Received' : step === 'decide' ? 'Settled at' : 'Amount claimed'}
        required
        bind:value={amount}
        problem={attempt.at('amount')}
        hint={step === 'file' || !claim.claimed ? undefined : `${figure(claim.claimed)} claimed by the customer`}
      />
    {/if}
    {#if step === 'file' || step === 'carrier' || step === 'recover'}
      <DateField
        label={step === 'file' ? 'Received on' : step === 'carrier' ? 'Filed on' : 'Received on'}
        bind:value={on}
        problem={attempt.at('filedOn') ?? attempt.at('paidOn')}
      />
    {/if}
    {#if step === 'recover'}
      <Choice label="Method" bind:value={method} problem={attempt.at('method')} options={options(methodLabels)} />
      <TextField label="Reference" bind:value={reference} maxlength={80} problem={attempt.at('reference')} />
    {/if}
  </div>
  {#if step === 'decide' || step === 'release'}
    <TextField
      label={step === 'decide' ? 'Explanation' : 'Reason'}
      required
      bind:value={why}
      maxlength={400}
      problem={attempt.at('why')}
    />
  {/if}
</InnerForm>
