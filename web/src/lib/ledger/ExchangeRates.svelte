<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDay } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import DateField from '$ui/DateField.svelte';
  import TextField from '$ui/TextField.svelte';

  /** What a Canadian dollar is worth, day by day; a day without a rate has the last one before it. */
  let rates = $state.raw<Schemas['ExchangeRateRow'][] | null>(null);
  let on = $state(session.today);
  let usd = $state('');
  const attempt = new Attempt();
  const load = () =>
    take(api.GET('/api/ledger/exchange-rates'))
      .then((r) => (rates = r))
      .catch(showError);
  $effect(() => {
    void load();
    return live.follow(load, ['ledger']);
  });
  const set = () =>
    attempt.run(async () => {
      rates = await take(
        api.POST('/api/ledger/exchange-rates', {
          body: { currency: 'CAD', on: on || null, usd: usd.trim() ? Number(usd.replace(',', '.')) : null },
        }),
      );
      showDone(`1 CAD is ${rates.find((r) => r.on === on)?.usd ?? usd} USD from ${formatDay(on)}.`);
      usd = '';
    });
</script>

<p class="mb-3"><a class="text-lark underline" href="/ledger?tab=accounts">Back to accounts</a></p>
<h2 class="mb-1 text-lg font-bold">Exchange rates</h2>
<p class="text-mute mb-3 max-w-3xl text-sm">
  Invoices, bills and payments in Canadian dollars post at the rate of their day, or the last one before it. What is
  posted keeps its rate. Closing a month measures what is open and in the bank at the rate of its last day.
</p>
{#if session.may('ledger.post')}
  <form
    class="mb-4 flex flex-wrap items-start gap-3"
    onsubmit={(e) => {
      e.preventDefault();
      void set();
    }}
  >
    <DateField class="w-44" label="From" bind:value={on} problem={attempt.at('on')} />
    <TextField
      class="w-52"
      label="1 Canadian dollar in USD"
      inputmode="decimal"
      required
      bind:value={usd}
      problem={attempt.at('usd')}
    />
    <Button class="mt-[1.6rem]" look="main" type="submit" busy={attempt.busy}>Save rate</Button>
    {#if attempt.refused?.general}<p class="text-ember-word w-full text-sm" role="alert">
        {attempt.refused.general}
      </p>{/if}
  </form>
{/if}
{#if rates && rates.length === 0}
  <p class="text-mute">No rates yet. Enter one before a customer or carrier trades in Canadian dollars.</p>
{:else if rates}
  <table class="w-full max-w-2xl text-sm">
    <thead
      ><tr class="text-mute text-left"
        ><th class="py-1 font-normal">From</th><th class="text-right font-normal">USD for 1 CAD</th><th
          class="pl-6 font-normal">Source</th
        ></tr
      ></thead
    >
    <tbody>
      {#each rates as r (r.on)}
        <tr class="border-line border-t"
          ><td class="py-1">{formatDay(r.on)}</td><td class="fig text-right">{r.usd.toFixed(4)}</td><td
            class="text-mute pl-6">{r.source}</td
          ></tr
        >
      {/each}
    </tbody>
  </table>
{:else}<p class="text-mute" role="status">Loading …</p>{/if}
