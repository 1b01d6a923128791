<script lang="ts">
  import { api, moneyKey, take, type Money, type Schemas } from '$lib/api/client';
  import { methodWords } from '$lib/loads/words';
  import { cents, figure } from '$lib/money';
  import { live } from '$lib/state/live.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { told, wentWrong } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { saidDay } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Notice from '$ui/Notice.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';

  let { id, onchanged }: { id: number; onchanged?: () => void } = $props();
  let bill = $state<Schemas['BillRow'] | null>(null);
  let amount = $state<Money | null>(null);
  let reason = $state('');
  let method = $state('ach');
  let reference = $state('');
  const attempt = new Attempt();
  async function load() {
    try {
      bill = await take(api.GET('/api/bills/{id}', { params: { path: { id } } }));
    } catch (e) {
      wentWrong(e);
    }
  }
  $effect(() => {
    void id;
    bill = null;
    amount = null;
    reason = '';
    attempt.refused = null;
    void load().then(() => {
      if (bill) amount = cents(bill.amount) > cents(bill.agreed) ? bill.agreed : bill.amount;
    });
    return live.follow(load, (e) => e.kind.startsWith('bill'));
  });
  async function run(act: () => Promise<Schemas['BillRow']>, text: (b: Schemas['BillRow']) => string) {
    await attempt.run(async () => {
      bill = await act();
      told(text(bill));
      onchanged?.();
    });
  }
  const approve = () =>
    run(
      () =>
        take(
          api.POST('/api/bills/{id}/approve', {
            params: { path: { id } },
            body: { amount, reason: reason || null },
            headers: moneyKey(),
          }),
        ),
      (b) => `Bill ${b.number} approved at ${figure(b.approved)}, due ${saidDay(b.dueOn)}.`,
    );
  const pay = () =>
    run(
      () =>
        take(
          api.POST('/api/bills/{id}/pay', {
            params: { path: { id } },
            body: { paidOn: null, method, reference: reference || null },
            headers: moneyKey(),
          }),
        ),
      (b) => `Bill ${b.number} paid to ${b.carrier}.`,
    );
  const voidIt = () =>
    run(
      () => take(api.POST('/api/bills/{id}/void', { params: { path: { id } }, headers: moneyKey() })),
      (b) => `Bill ${b.number} taken back.`,
    );
</script>

{#if !bill}<p class="text-mute p-5" role="status">Loading …</p>
{:else}
  <div class="px-5 pt-4 pb-3">
    <h2 class="pr-8 text-lg"><span class="fig font-bold">{bill.number}</span> {bill.carrier}</h2>
    <p class="text-mute text-sm">
      load <a class="text-lark hover:underline" href="/load/{bill.loadId}">{bill.loadNumber}</a>, {bill.lane}
    </p>
    <p class="text-mute text-sm">billed {saidDay(bill.billedOn)}, due {saidDay(bill.dueOn)}</p>
  </div>
  <Part title="Held against what was agreed">
    <dl class="grid grid-cols-[1fr_auto] gap-y-1">
      <dt>Agreed</dt>
      <dd class="fig text-right">{figure(bill.agreed)}</dd>
      <dt>Billed</dt>
      <dd class="fig text-right">{figure(bill.amount)}</dd>
      <dt class={cents(bill.difference) > 0 ? 'text-ember-word font-bold' : 'text-mute'}>
        {cents(bill.difference) > 0 ? 'Over' : cents(bill.difference) < 0 ? 'Under' : 'Difference'}
      </dt>
      <dd class="fig text-right {cents(bill.difference) > 0 ? 'text-ember-word font-bold' : 'text-mute'}">
        {figure(bill.difference)}
      </dd>
      {#if bill.approved}
        <dt class="font-bold">Approved{bill.approvedBy ? ` by ${bill.approvedBy}` : ''}</dt>
        <dd class="fig text-right font-bold">{figure(bill.approved)}</dd>
      {/if}
    </dl>
    {#if bill.approvedWhy}<p class="text-mute mt-1 text-sm">{bill.approvedWhy}</p>{/if}
  </Part>
  {#if bill.voidedAt}
    <Part title="Taken back"><p class="text-mute text-sm">This bill does not count.</p></Part>
  {:else if !bill.approved && session.may('paying.approve')}
    <Part title="Approve">
      <div class="flex flex-col gap-2">
        <div class="grid grid-cols-2 gap-3">
          <MoneyField label="Amount approved" bind:value={amount} required problem={attempt.at('amount')} />
          <TextField
            label="Why"
            bind:value={reason}
            maxlength={400}
            required={cents(amount) > cents(bill.agreed)}
            problem={attempt.at('reason')}
          />
        </div>
        {#if attempt.refused && attempt.refused.general}<Notice>{attempt.refused.general}</Notice>{/if}
        <div class="flex gap-2">
          <Button look="main" busy={attempt.busy} disabled={!amount} onclick={approve}>Approve {figure(amount)}</Button>
          {#if session.may('paying.enter')}<Button look="quiet" busy={attempt.busy} onclick={voidIt}
              >Take the bill back</Button
            >{/if}
        </div>
      </div>
    </Part>
  {:else if bill.approved && !bill.paidOn}
    <Part title="Pay">
      {#if session.may('paying.pay')}
        <div class="grid grid-cols-2 gap-3">
          <Choice
            label="How"
            bind:value={method}
            options={Object.entries(methodWords).map(([value, label]) => ({ value, label }))}
          />
          <TextField label="Reference" bind:value={reference} maxlength={80} />
        </div>
        {#if attempt.refused}<div class="mt-2"><Notice>{attempt.refused.message}</Notice></div>{/if}
        <Button look="main" class="mt-3" busy={attempt.busy} onclick={pay}
          >Pay {bill.carrier} {figure(bill.approved)}</Button
        >
      {:else}<p class="text-mute text-sm">Waiting to be paid by {saidDay(bill.dueOn)}.</p>{/if}
    </Part>
  {:else if bill.paidOn}
    <Part title="Paid"
      ><p class="text-moss-word font-bold">
        {saidDay(bill.paidOn)} by {methodWords[bill.paidMethod ?? '']}
        {bill.paidReference ?? ''}
      </p></Part
    >
  {/if}
  {#if session.may('ledger.see')}<Part title="In the books"
      ><a class="text-lark text-sm hover:underline" href="/ledger?tab=lines&load={bill.loadId}"
        >Entries of load {bill.loadNumber}</a
      ></Part
    >{/if}
{/if}
