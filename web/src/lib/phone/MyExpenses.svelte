<script lang="ts">
  import { api, sendFile, take, type Money, type Schemas } from '$lib/api/client';
  import { latest } from '$lib/api/latest';
  import { said } from '$lib/money';
  import { photoOf } from '$lib/phone/image';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDate } from '$lib/time/when';
  import { expenseLabels, isFuel, quantityOf, soldIn, thirdFigure, typedNumber } from '$lib/trips/expenses';
  import Button from '$ui/Button.svelte';
  import DateField from '$ui/DateField.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';

  /** A driver reports what they paid on the trip, with a photo of the receipt. */
  let { load: current }: { load: Schemas['MyLoad'] } = $props();
  let mine = $state<Schemas['MyExpense'][]>([]);
  let kind = $state<Schemas['CostKind'] | null>(null);
  let card = $state(true);
  let on = $state(session.today);
  let place = $state('');
  let region = $state('');
  let quantity = $state('');
  let amount = $state<Money | null>(null);
  let note = $state('');
  let photo = $state<File | null>(null);
  const attempt = new Attempt();
  const sold = $derived(soldIn(region));
  const fuel = $derived(!!kind && isFuel(kind));
  const load = latest(
    () => take(api.GET('/api/mine/expenses')),
    (answer) => (mine = answer),
    showError,
  );
  $effect(() => {
    void current;
    void load();
  });
  const sendPhoto = async (id: number, file: File) => {
    const { picture, name } = await photoOf(file);
    await sendFile(`/api/mine/expenses/${id}/receipt?name=${encodeURIComponent(name)}`, picture, 'phone');
  };
  const send = () =>
    attempt.run(async (money) => {
      const made = await take(
        api.POST('/api/mine/trips/{id}/expenses', {
          params: { path: { id: current.tripId } },
          body: {
            kind,
            on: on || null,
            amount,
            paidBy: card ? 'company_card' : 'driver',
            place: place || null,
            region: region || null,
            quantity: fuel ? typedNumber(quantity) : null,
            unit: fuel ? sold.unit : null,
            note: note || null,
          },
          headers: { ...money, 'Lark-Via': 'phone' },
        }),
      );
      if (photo) await sendPhoto(made.id, photo).catch(showError);
      showDone(`${expenseLabels[made.kind]}, ${said(made.amount)}, sent.`);
      kind = null;
      place = quantity = note = '';
      on = session.today;
      amount = null;
      photo = null;
      await load();
    });
  const addPhoto = (id: number, file: File | undefined) =>
    file &&
    attempt.run(async () => {
      await sendPhoto(id, file);
      showDone('Receipt sent.');
      await load();
    });
  const states = { reported: 'sent', approved: 'approved', declined: 'declined', removed: 'removed' };
  const kinds = Object.entries(expenseLabels) as [Schemas['CostKind'], string][];
</script>

<section class="border-line mt-6 border-t pt-3" aria-label="Expenses">
  <h2 class="text-mute mb-2 text-sm font-bold">Add an expense</h2>
  <div class="grid grid-cols-3 gap-2">
    {#each kinds as [k, label] (k)}
      <button
        class="h-12 rounded-lg border px-2 text-base {kind === k
          ? 'border-lark bg-lark-tint font-bold'
          : 'border-line'}"
        aria-pressed={kind === k}
        onclick={() => (kind = kind === k ? null : k)}>{label}</button
      >
    {/each}
  </div>
  {#if kind}
    <div class="mt-3 flex flex-col gap-2">
      <div class="grid grid-cols-2 gap-2" role="group" aria-label="Paid by">
        {#each [{ on: true, label: 'Company card' }, { on: false, label: 'I paid' }] as { on, label } (label)}
          <button
            class="h-12 rounded-lg border px-2 text-base {card === on
              ? 'border-lark bg-lark-tint font-bold'
              : 'border-line'}"
            aria-pressed={card === on}
            onclick={() => (card = on)}>{label}</button
          >
        {/each}
      </div>
      <div class="grid grid-cols-[1fr_6rem] gap-2">
        <TextField label="Paid to" bind:value={place} maxlength={120} problem={attempt.at('place')} />
        <TextField
          label="State"
          required={fuel}
          bind:value={region}
          maxlength={2}
          placeholder="OR"
          problem={attempt.at('region')}
        />
      </div>
      <div class="grid gap-2 {fuel ? 'grid-cols-2' : ''}">
        {#if fuel}<TextField
            label={sold.unit === 'liters' ? 'Liters' : 'Gallons'}
            required
            inputmode="decimal"
            bind:value={quantity}
            problem={attempt.at('quantity')}
          />{/if}
        <MoneyField
          label="Total"
          required
          currency={sold.currency}
          bind:value={amount}
          hint={fuel ? thirdFigure(typedNumber(quantity), null, amount, sold.unit) : ''}
          problem={attempt.at('amount')}
        />
      </div>
      <DateField label="Date" bind:value={on} problem={attempt.at('on')} />
      <TextField label="Note" bind:value={note} maxlength={200} problem={attempt.at('note')} />
      <label
        class="border-lark text-lark focus-within:outline-lark flex h-14 cursor-pointer items-center justify-center rounded-lg border-2 text-lg font-bold focus-within:outline-2"
      >
        {photo ? 'Photo of the receipt taken' : 'Photograph the receipt'}
        <input
          type="file"
          class="sr-only"
          accept="image/*,application/pdf"
          capture="environment"
          aria-label="Receipt: take a photo or choose a scan"
          onchange={(e) => (photo = e.currentTarget.files?.[0] ?? null)}
        />
      </label>
      <Button look="main" class="h-14! text-lg" busy={attempt.busy} onclick={send}>Send</Button>
    </div>
  {/if}
  {#if attempt.refused?.general || (attempt.refused && !kind)}<p class="text-ember-word mt-2" role="alert">
      {attempt.refused.message}
    </p>{/if}
  {#if mine.length > 0}
    <ul class="mt-3" aria-label="Expenses sent">
      {#each mine as x (x.id)}
        <li class="border-line flex items-baseline justify-between gap-3 border-b py-1.5">
          <span class="min-w-0">
            <b>{expenseLabels[x.kind]}</b>
            <span class="text-mute text-sm"
              >{[formatDate(x.on), [x.place, x.region].filter(Boolean).join(' '), quantityOf(x)]
                .filter(Boolean)
                .join(' · ')}</span
            >
            <span class="block text-sm {x.state === 'declined' ? 'text-ember-word' : 'text-mute'}"
              >{states[x.state]}{x.reason ? `: ${x.reason}` : ''}{x.paidBy === 'driver' && x.state === 'approved'
                ? ', reimbursed with your settlement'
                : ''}</span
            >
          </span>
          <span class="fig shrink-0 text-right">
            {said(x.amount)}
            {#if !x.hasReceipt && x.state === 'reported'}<label
                class="text-lark block cursor-pointer font-sans text-sm underline"
                >Add receipt<input
                  type="file"
                  class="sr-only"
                  accept="image/*,application/pdf"
                  capture="environment"
                  aria-label="Receipt for {expenseLabels[x.kind]}, {said(x.amount)}"
                  onchange={(e) => void addPhoto(x.id, e.currentTarget.files?.[0])}
                /></label
              >{/if}
          </span>
        </li>
      {/each}
    </ul>
  {/if}
</section>
