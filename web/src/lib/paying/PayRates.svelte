<script lang="ts">
  import { api, take, type Money, type Schemas } from '$lib/api/client';
  import { chart } from '$lib/ledger/accounts.svelte';
  import { figure } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDay, formatDate } from '$lib/time/when';
  import { options } from '$lib/words';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';
  import DateField from '$ui/DateField.svelte';
  import EscrowPart from './EscrowPart.svelte';
  import { rateLabels, formatRate } from './labels';

  /** A driver's pay rates by start date, and recurring deductions. */
  let { driverId }: { driverId: number } = $props();
  let agreement = $state<Schemas['AgreementView'] | null>(null);
  let kind = $state('per_mile');
  let rate = $state('');
  let from = $state(session.today);
  let name = $state('');
  let amount = $state<Money | null>(null);
  let account = $state('');
  /** For escrow: the agreed amount. */
  let upTo = $state<Money | null>(null);
  let first = $state(session.today);
  const rates = new Attempt();
  const kept = new Attempt();
  const load = (id: number) =>
    take(api.GET('/api/drivers/{id}/agreement', { params: { path: { id } } }))
      .then((a) => (agreement = a))
      .catch(showError);
  $effect(() => {
    void load(driverId);
    if (session.may('paying.agree')) chart.read().catch(showError);
  });
  /** Each pay type's newest rate first; earlier ones below it. */
  const now = $derived(
    Object.keys(rateLabels)
      .map((k) => ({ kind: k, all: (agreement?.rates ?? []).filter((r) => r.kind === k) }))
      .filter((g) => g.all.length > 0),
  );
  /** With the year, because rates last. */
  const setRate = () =>
    rates.run(async () => {
      agreement = await take(
        api.POST('/api/drivers/{id}/rates', {
          params: { path: { id: driverId } },
          body: { kind: kind as Schemas['PayKind'], rate: Number(rate.replace(',', '.')), from: from || null },
        }),
      );
      showDone(`${rate} ${rateLabels[kind]} from ${formatDay(from)}.`);
      rate = '';
    });
  const keepBack = () =>
    kept.run(async () => {
      agreement = await take(
        api.POST('/api/drivers/{id}/deductions', {
          params: { path: { id: driverId } },
          body: { name, amount, account: account || null, from: first || null, until: null, upTo: upTo ?? undefined },
        }),
      );
      showDone(`Deduction of ${figure(amount)} per week for ${name} added.`);
      name = '';
      amount = null;
      upTo = null;
    });
  async function end(id: number) {
    try {
      agreement = await take(
        api.POST('/api/drivers/{id}/deductions/{deduction}/end', { params: { path: { id: driverId, deduction: id } } }),
      );
    } catch (e) {
      showError(e);
    }
  }
</script>

{#if !agreement}<p class="text-mute p-5" role="status">Loading …</p>
{:else}
  <h2 class="px-5 pt-4 pr-12 pb-3 text-lg font-bold">{agreement.driver}</h2>
  <Part title="Pay rates">
    {#each now as group (group.kind)}
      <p class="flex items-baseline justify-between gap-3 {group.all[0].rate === 0 ? 'text-mute' : ''}">
        <span>{rateLabels[group.kind]}</span>
        <span class="text-mute min-w-0 flex-1 truncate text-right text-sm"
          >from {formatDate(group.all[0].from)}{group.all[1]
            ? `, ${formatRate(group.kind, group.all[1].rate)} before`
            : ''}</span
        >
        <span class="fig font-bold"
          >{group.all[0].rate === 0 ? 'ended' : formatRate(group.kind, group.all[0].rate)}</span
        >
      </p>
    {:else}<p class="text-mute text-sm">No pay rates yet.</p>{/each}
    {#if session.may('paying.agree')}
      <form
        class="mt-3 grid grid-cols-12 gap-2"
        aria-label="Set a pay rate"
        onsubmit={(e) => {
          e.preventDefault();
          void setRate();
        }}
      >
        <Choice
          class="col-span-5"
          label="Pay type"
          bind:value={kind}
          options={options(rateLabels)}
          problem={rates.at('kind')}
        />
        <TextField
          class="col-span-3"
          label={kind === 'percent_of_line_haul' ? 'Percent' : 'USD'}
          inputmode="decimal"
          required
          bind:value={rate}
          problem={rates.at('rate')}
          hint="0 ends it"
        />
        <DateField class="col-span-4" label="From" bind:value={from} problem={rates.at('from')} />
        <div class="col-span-12">
          <Button small type="submit" busy={rates.busy} disabled={rate.trim() === ''}>Set rate</Button>
        </div>
      </form>
    {/if}
  </Part>
  <Part title="Recurring deductions">
    {#each agreement.recurring as d (d.id)}
      <p class="flex items-baseline justify-between gap-3 {d.until ? 'text-mute' : ''}">
        <span class="min-w-0 flex-1 truncate">{d.name}{d.upTo ? `, up to ${figure(d.upTo)}` : ''}</span>
        <span class="text-mute text-sm">{d.until ? `until ${formatDate(d.until)}` : `since ${formatDate(d.from)}`}</span
        >
        <span class="fig">{figure(d.amount)}</span>
        {#if !d.until && session.may('paying.agree')}<button
            class="text-lark text-sm hover:underline"
            onclick={() => end(d.id)}>End</button
          >{/if}
      </p>
    {:else}<p class="text-mute text-sm">Nothing.</p>{/each}
    {#if session.may('paying.agree')}
      <form
        class="mt-3 grid grid-cols-12 gap-2"
        aria-label="Add a recurring deduction"
        onsubmit={(e) => {
          e.preventDefault();
          void keepBack();
        }}
      >
        <TextField
          class="col-span-5"
          label="Description"
          required
          bind:value={name}
          maxlength={60}
          problem={kept.at('name')}
        />
        <MoneyField class="col-span-3" label="Per week" required bind:value={amount} problem={kept.at('amount')} />
        <DateField class="col-span-4" label="From" bind:value={first} problem={kept.at('from')} />
        <Choice
          class="col-span-8"
          label="Account"
          bind:value={account}
          problem={kept.at('account')}
          options={[
            { value: '', label: '2200 Withheld from pay' },
            ...chart.options(['liability', 'income', 'expense']),
          ]}
        />
        {#if account === '2250'}
          <MoneyField class="col-span-4" label="Up to (lease)" required bind:value={upTo} problem={kept.at('upTo')} />
        {/if}
        <div class="col-span-4 flex items-end">
          <Button small type="submit" busy={kept.busy} disabled={!name.trim() || !amount}>Add deduction</Button>
        </div>
      </form>
    {/if}
  </Part>
  {#if agreement.escrow.length > 0 || agreement.recurring.some((d) => d.upTo)}
    <EscrowPart {agreement} onchanged={() => void load(driverId)} />
  {/if}
{/if}
