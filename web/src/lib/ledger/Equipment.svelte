<script lang="ts">
  import { api, moneyKey, take, type Money, type Schemas } from '$lib/api/client';
  import { methodLabels } from '$lib/loads/labels';
  import { cents, figure, said, sum } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDay, formatDate } from '$lib/time/when';
  import { options } from '$lib/words';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import DateField from '$ui/DateField.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';
  import AssetForm from './AssetForm.svelte';

  /** Trucks, trailers and other equipment the company owns, with depreciation and loans. */
  let assets = $state<Schemas['AssetRow'][] | null>(null);
  let trucks = $state<Schemas['TruckRow'][]>([]);
  let adding = $state(false);
  /** The open form, and the asset it is for. */
  let act = $state<{ kind: 'sell' | 'pay'; id: number } | null>(null);
  let on = $state('');
  let proceeds = $state<Money | null>(null);
  let method = $state('ach');
  let reference = $state('');
  const attempt = new Attempt();
  const load = async () => {
    try {
      assets = await take(api.GET('/api/assets'));
      trucks = (await take(api.GET('/api/fleet'))).trucks;
    } catch (e) {
      showError(e);
    }
  };
  $effect(() => {
    void load();
    return live.follow(load, ['ledger']);
  });
  function open(kind: 'sell' | 'pay', id: number) {
    act = { kind, id };
    on = session.today;
    proceeds = null;
    reference = '';
    attempt.refused = null;
  }
  const sell = (a: Schemas['AssetRow']) =>
    attempt.run(async (headers) => {
      const body = { soldOn: on || null, proceeds };
      await take(api.POST('/api/assets/{id}/sell', { params: { path: { id: a.id } }, body, headers }));
      showDone(`${a.name} sold for ${said(proceeds)}.`);
      act = null;
      await load();
    });
  const pay = (a: Schemas['AssetRow']) =>
    attempt.run(async (headers) => {
      const body = { paidOn: on || null, method, reference: reference || null };
      await take(api.POST('/api/loans/{id}/payments', { params: { path: { id: a.loan!.id } }, body, headers }));
      showDone(`Payment ${a.loan!.next!.number} to ${a.loan!.lender} recorded.`);
      act = null;
      await load();
    });
  async function reverse(path: '/api/assets/{id}/reverse-sale' | '/api/loan-payments/{id}/reverse', id: number) {
    try {
      await take(api.POST(path, { params: { path: { id } }, headers: moneyKey() }));
      showDone('Reversed.');
    } catch (e) {
      showError(e);
    }
    await load();
  }
  const lastPaid = (a: Schemas['AssetRow']) => a.loan?.payments.filter((p) => p.stands).at(-1);
</script>

<div class="max-w-5xl">
  <div class="mb-3 flex items-baseline justify-between">
    <p class="text-mute text-sm">Depreciation is posted for each month when it is closed.</p>
    {#if session.may('ledger.post')}<Button onclick={() => (adding = true)}>Add equipment</Button>{/if}
  </div>
  {#if adding}
    <AssetForm
      {trucks}
      ondone={() => {
        adding = false;
        void load();
      }}
      oncancel={() => (adding = false)}
    />
  {/if}
  {#if assets && assets.length === 0}
    <p class="text-mute">No equipment yet. Leased trucks are not listed here: their lease is a bill.</p>
  {:else if assets}
    <table class="mt-3 w-full">
      <thead class="text-mute text-left text-sm">
        <tr>
          <th class="font-normal">Equipment</th>
          <th class="font-normal">In service</th>
          <th class="text-right font-normal">Cost</th>
          <th class="text-right font-normal">Depreciated</th>
          <th class="text-right font-normal">Book value</th>
          <th class="text-right font-normal">Loan owed</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        {#each assets as a (a.id)}
          <tr class="border-line h-11 border-t">
            <td
              ><b>{a.name}</b>{#if a.truck}<span class="text-mute ml-1.5 text-sm">truck {a.truck}</span>{/if}
              {#if a.soldOn}<span class="text-mute block text-sm"
                  >sold {formatDay(a.soldOn)} for {figure(a.proceeds)}</span
                >{:else if a.loan?.next}<span class="text-mute block text-sm"
                  >{a.loan.lender}, {a.loan.percent} %: next {said(a.loan.next.amount)} on {formatDay(
                    a.loan.next.dueOn,
                  )}</span
                >{/if}</td
            >
            <td>{formatDate(a.inService)}</td>
            <td class="fig text-right">{figure(a.cost)}</td>
            <td class="fig text-right">{figure(a.depreciated)}</td>
            <td class="fig text-right">{figure(a.bookValue)}</td>
            <td class="fig text-right">{a.loan ? figure(a.loan.owed) : ''}</td>
            <td class="pl-4 text-sm whitespace-nowrap">
              {#if a.loan?.next && session.may('paying.pay')}<button
                  class="text-lark mr-2 hover:underline"
                  onclick={() => open('pay', a.id)}>Pay loan</button
                >{/if}
              {#if lastPaid(a) && session.may('paying.pay')}<button
                  class="text-lark mr-2 hover:underline"
                  onclick={() => reverse('/api/loan-payments/{id}/reverse', lastPaid(a)!.id)}
                  >Reverse payment {lastPaid(a)!.number}</button
                >{/if}
              {#if session.may('ledger.post')}{#if a.soldOn}<button
                    class="text-lark hover:underline"
                    onclick={() => reverse('/api/assets/{id}/reverse-sale', a.id)}>Reverse sale</button
                  >{:else}<button class="text-lark hover:underline" onclick={() => open('sell', a.id)}>Sell</button
                  >{/if}{/if}
            </td>
          </tr>
          {#if act?.id === a.id}
            <tr
              ><td colspan="7" class="pb-3">
                <InnerForm
                  {attempt}
                  action={act.kind === 'sell' ? `Sell for ${said(proceeds)}` : `Pay ${said(a.loan?.next?.amount)}`}
                  onact={() => (act?.kind === 'sell' ? sell(a) : pay(a))}
                  oncancel={() => (act = null)}
                >
                  <div class="grid grid-cols-3 gap-3">
                    {#if act.kind === 'sell'}
                      <MoneyField
                        label="Received"
                        required
                        bind:value={proceeds}
                        problem={attempt.at('proceeds')}
                        hint="book value {figure(a.bookValue)}"
                      />
                    {:else}
                      <Choice
                        label="Method"
                        bind:value={method}
                        problem={attempt.at('method')}
                        options={options(methodLabels)}
                      />
                      <TextField
                        label="Reference"
                        bind:value={reference}
                        maxlength={80}
                        problem={attempt.at('reference')}
                      />
                    {/if}
                    <DateField
                      label={act.kind === 'sell' ? 'Sold on' : 'Paid on'}
                      bind:value={on}
                      problem={attempt.at('soldOn') ?? attempt.at('paidOn')}
                    />
                  </div>
                  {#if act.kind === 'pay' && a.loan?.next}<p class="text-mute text-sm">
                      Payment {a.loan.next.number} of {a.loan.months}: {figure(a.loan.next.interest)} interest, {figure(
                        a.loan.next.principal,
                      )} principal; {figure(a.loan.next.left)} is owed after it.
                    </p>{/if}
                </InnerForm>
              </td></tr
            >
          {/if}
        {/each}
      </tbody>
      <tfoot>
        <tr class="border-line h-9 border-t-2 font-bold">
          <td>Total in use</td><td></td>
          <td class="fig text-right">{figure(sum(assets.filter((a) => !a.soldOn).map((a) => a.cost)))}</td>
          <td class="fig text-right">{figure(sum(assets.filter((a) => !a.soldOn).map((a) => a.depreciated)))}</td>
          <td class="fig text-right">{figure(sum(assets.map((a) => a.bookValue)))}</td>
          <td class="fig text-right"
            >{figure(sum(assets.flatMap((a) => (a.loan && cents(a.loan.owed) ? [a.loan.owed] : []))))}</td
          ><td></td>
        </tr>
      </tfoot>
    </table>
  {:else}<p class="text-mute" role="status">Loading …</p>{/if}
</div>
