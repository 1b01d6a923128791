<script lang="ts">
  import { api, moneyKey, take, type Money, type Schemas } from '$lib/api/client';
  import { cents, figure, fromCents, said } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { told } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';

  let { leg, ondone }: { leg: Schemas['UnbilledLeg']; ondone: (id: number) => void } = $props();
  let number = $state('');
  let on = $state(session.today);
  let amount = $state<Money | null>(null);
  const attempt = new Attempt();
  const difference = $derived(amount ? cents(amount) - cents(leg.agreed) : 0);
  async function send() {
    await attempt.run(async (money) => {
      const bill = await take(
        api.POST('/api/bills', {
          body: { legId: leg.legId, number, billedOn: on || null, amount },
          headers: money,
        }),
      );
      told(`Bill ${bill.number} from ${bill.carrier} entered.`, () =>
        take(api.POST('/api/bills/{id}/void', { params: { path: { id: bill.id } }, headers: moneyKey() })),
      );
      ondone(bill.id);
    });
  }
</script>

<form
  class="flex flex-col gap-3 p-5"
  onsubmit={(e) => {
    e.preventDefault();
    void send();
  }}
>
  <div class="pr-8">
    <h2 class="text-lg font-bold">{leg.carrier}</h2>
    <p class="text-mute text-sm">
      load <a class="text-lark hover:underline" href="/load/{leg.loadId}">{leg.loadNumber}</a>, {leg.lane}, agreed {figure(
        leg.agreed,
      )}
    </p>
  </div>
  {#if session.may('paying.enter')}
    <TextField
      label="The bill’s own number"
      required
      bind:value={number}
      maxlength={60}
      problem={attempt.at('number')}
    />
    <div class="grid grid-cols-2 gap-3">
      <MoneyField label="Amount billed" required bind:value={amount} problem={attempt.at('amount')} />
      <TextField label="The bill’s date" type="date" bind:value={on} problem={attempt.at('billedOn')} />
    </div>
    {#if amount && difference !== 0}
      <p class="text-sm {difference > 0 ? 'text-ember-word font-bold' : 'text-mute'}">
        {figure(fromCents(Math.abs(difference)))}
        {difference > 0 ? 'over' : 'under'} what was agreed
      </p>
    {/if}
    {#if attempt.refused && (attempt.refused.general || attempt.refused.at('legId'))}<p
        class="text-ember-word text-sm"
        role="alert"
      >
        {attempt.refused.message}
      </p>{/if}
    <div>
      <Button look="main" type="submit" busy={attempt.busy} disabled={!number.trim() || !amount}
        >Enter the bill over {said(amount) || '…'}</Button
      >
    </div>
  {:else}<p class="text-mute text-sm">Waiting for the carrier’s bill.</p>{/if}
</form>
