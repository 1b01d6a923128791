<script lang="ts">
  import { api, take, type Money, type Schemas } from '$lib/api/client';
  import { claimState } from '$lib/claims/labels';
  import { cents, figure, fromCents, said } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import Choice from '$ui/Choice.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';

  /** Deducts from a vendor's bill what it owes us, for a claim on the load or otherwise. */
  let { bill, ondone, oncancel }: { bill: Schemas['BillRow']; ondone: () => void; oncancel: () => void } = $props();
  let amount = $state<Money | null>(null);
  let claim = $state('');
  let why = $state('');
  let claims = $state<Schemas['ClaimRow'][] | null>(null);
  const attempt = new Attempt();
  $effect(() => {
    const load = bill.loadId;
    if (!load) claims = [];
    else
      take(api.GET('/api/loads/{id}/claims', { params: { path: { id: load } } }))
        .then((all) => {
          const against = all.filter((c) => c.carrierId === bill.vendorId);
          const first = against.find((c) => c.holdsPay);
          if (first && !claims) {
            claim = String(first.id);
            why = `claim ${first.number}`;
            const left = cents(first.allowed) - cents(first.recovered);
            if (left > 0) amount = fromCents(left, bill.amount?.currency);
          }
          claims = against;
        })
        .catch(showError);
  });
  const add = () =>
    attempt.run(async (money) => {
      await take(
        api.POST('/api/bills/{id}/debit-memos', {
          params: { path: { id: bill.id } },
          body: { amount, why: why || null, claimId: claim ? Number(claim) : null },
          headers: money,
        }),
      );
      showDone(`${said(amount)} deducted from bill ${bill.number}.`);
      ondone();
    });
</script>

{#if claims}
  <InnerForm {attempt} action="Deduct {said(amount)}" onact={add} {oncancel}>
    <div class="grid grid-cols-2 gap-3">
      <MoneyField label="Deduct" required bind:value={amount} problem={attempt.at('amount')} />
      {#if claims.length}<Choice
          label="For claim"
          bind:value={claim}
          problem={attempt.at('claimId')}
          options={[
            { value: '', label: 'none' },
            ...claims.map((c) => ({
              value: String(c.id),
              label: `${c.number}, ${claimState(c)}${cents(c.allowed) ? ` ${figure(c.allowed)}` : ''}`,
            })),
          ]}
        />{/if}
    </div>
    <TextField label="Explanation" required bind:value={why} maxlength={200} problem={attempt.at('why')} />
  </InnerForm>
{/if}
