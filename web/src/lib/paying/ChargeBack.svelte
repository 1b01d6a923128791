<script lang="ts">
  import { api, take, type Money, type Schemas } from '$lib/api/client';
  import { cents, fromCents, said } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Picker from '$ui/Picker.svelte';

  /** Charges a bill's line back to an owner-operator: a deduction from the next settlement. */
  interface Props {
    billId: number;
    line: Schemas['BillLineRow'];
    ondone: () => void;
    oncancel: () => void;
  }
  let { billId, line, ondone, oncancel }: Props = $props();
  type Driver = { id: number; name: string };
  let driver = $state<Driver | null>(null);
  let amount = $state<Money | null>(null);
  const attempt = new Attempt();
  $effect(() => {
    if (line.driverId) driver = { id: line.driverId, name: line.driver ?? '' };
    amount = fromCents(cents(line.amount) - cents(line.chargedBack));
  });
  const find = async (q: string): Promise<Driver[]> =>
    (await take(api.GET('/api/fleet'))).drivers.filter(
      (d) => d.worker === 'owner_operator' && d.name.toLowerCase().includes(q.toLowerCase()),
    );
  const charge = () =>
    attempt.run(async (money) => {
      await take(
        api.POST('/api/bills/{id}/charge-back', {
          params: { path: { id: billId } },
          body: { line: line.line, driverId: driver?.id ?? null, amount: amount ?? undefined },
          headers: money,
        }),
      );
      showDone(`${said(amount)} charged back to ${driver?.name}; it is deducted from the next settlement.`);
      ondone();
    });
</script>

<InnerForm {attempt} action="Charge back" onact={charge} {oncancel}>
  <div class="grid grid-cols-[1fr_140px] gap-3">
    <Picker
      label="Owner-operator"
      required
      bind:value={driver}
      {find}
      name={(d) => d.name}
      key={(d) => d.id}
      problem={attempt.at('driverId')}
    />
    <MoneyField label="Amount" required bind:value={amount} problem={attempt.at('amount') ?? attempt.at('line')} />
  </div>
</InnerForm>
