<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { api, take, type Money, type Schemas } from '$lib/api/client';
  import { said } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Picker from '$ui/Picker.svelte';
  import TextField from '$ui/TextField.svelte';
  import DateField from '$ui/DateField.svelte';

  let { ondone }: { ondone: () => void } = $props();
  let driver = $state<Schemas['DriverRow'] | null>(null);
  let amount = $state<Money | null>(null);
  let on = $state(session.today);
  let note = $state('');
  const attempt = new Attempt();
  const draft = new Draft(
    () => 'advance',
    () => ({ driver, amount, on, note }),
    (v) => {
      ({ driver, amount, on, note } = v);
    },
  );
  const find = async (q: string) =>
    (await take(api.GET('/api/fleet'))).drivers.filter((d) => d.name.toLowerCase().includes(q.toLowerCase()));
  async function send() {
    await attempt.run(async (money) => {
      await take(
        api.POST('/api/advances', {
          body: { driverId: driver?.id ?? null, amount, issuedOn: on || null, note: note || null },
          headers: money,
        }),
      );
      showDone(`Advance of ${said(amount)} issued to ${driver!.name}; it will be deducted from the next settlement.`);
      draft.done();
      ondone();
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
  <DraftNotice {draft} />
  <h2 class="pr-8 text-lg font-bold">Issue an advance</h2>
  <Picker
    label="Driver"
    required
    bind:value={driver}
    {find}
    name={(d) => d.name}
    detail={(d) => d.homeTown ?? ''}
    key={(d) => d.id}
    problem={attempt.at('driverId')}
  />
  <div class="grid grid-cols-2 gap-3">
    <MoneyField label="Amount" required bind:value={amount} problem={attempt.at('amount')} />
    <DateField label="Date" bind:value={on} problem={attempt.at('issuedOn')} />
  </div>
  <TextField label="Note" bind:value={note} maxlength={200} problem={attempt.at('note')} />
  <div>
    <Button look="main" type="submit" busy={attempt.busy} disabled={!driver || !amount}
      >Issue {said(amount) || 'advance'}{driver ? ` to ${driver.name}` : ''}</Button
    >
  </div>
</form>
