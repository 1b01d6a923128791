<script lang="ts">
  import { api, moneyKey, Refused, take, type Schemas } from '$lib/api/client';
  import { methodLabels } from '$lib/loads/labels';
  import { cents, figure, said } from '$lib/money';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { addDays, formatDay, formatDate } from '$lib/time/when';
  import { options } from '$lib/words';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import Notice from '$ui/Notice.svelte';
  import PayItemForm from './PayItemForm.svelte';
  import { isPlain } from '$ui/keys';
  import SettlementLine from './SettlementLine.svelte';
  import { how } from './labels';

  interface Props {
    week: Schemas['SettlementView'];
    onchanged?: () => void;
    /** The driver's own page: they view, others approve and pay. */
    own?: boolean;
  }
  let { week, onchanged, own = false }: Props = $props();
  let busy = $state(false);
  let method = $state('ach');
  let refused = $state('');
  // An idempotency key per settlement: pressing twice counts once.
  const [key, payKey] = $derived.by(() => {
    void week.driverId;
    void week.monday;
    void week.settlement?.id;
    void week.settlement?.paidOn;
    return [moneyKey(), moneyKey()];
  });

  async function run(act: () => Promise<unknown>, text: string, undo?: () => Promise<unknown>) {
    busy = true;
    refused = '';
    try {
      await act();
      showDone(text, undo && (() => undo().then(() => onchanged?.())));
    } catch (e) {
      if (e instanceof Refused) refused = e.message;
      else showError(e);
    } finally {
      busy = false;
      onchanged?.();
    }
  }
  const back = (id: number, path: 'unapprove' | 'unpay') =>
    take(
      api.POST(`/api/settlements/{id}/${path}` as '/api/settlements/{id}/unpay', {
        params: { path: { id } },
        headers: moneyKey(),
      }),
    );
  const approve = () => {
    let made = 0;
    return run(
      async () => {
        made = (
          await take(
            api.POST('/api/settlements/approve', {
              body: { driverId: week.driverId, monday: week.monday },
              headers: key,
            }),
          )
        ).id;
      },
      `${week.driver}’s settlement approved for ${said(week.net)}.`,
      () => back(made, 'unapprove'),
    );
  };
  const voidAdvance = (id: number) =>
    run(
      () => take(api.POST('/api/advances/{id}/void', { params: { path: { id } }, headers: moneyKey() })),
      'Advance voided.',
    );
  /** a: approve; p: pay. */
  function onkey(e: KeyboardEvent) {
    if (own || busy || !isPlain(e)) return;
    if (e.key === 'a' && !week.settlement && week.ended && session.may('paying.approve')) void approve();
    else if (e.key === 'p' && week.settlement && !week.settlement.paidOn && mayPay) void pay();
  }
  const takeItemBack = (id: number) =>
    run(
      () => take(api.POST('/api/pay-items/{id}/remove', { params: { path: { id } }, headers: moneyKey() })),
      'Removed from the settlement.',
    );
  const seen = () =>
    run(
      () => take(api.POST('/api/mine/settlements/{monday}/acknowledge', { params: { path: { monday: week.monday } } })),
      'Settlement acknowledged.',
    );
  const mayPay = $derived(
    session.may('paying.pay') &&
      !(session.current?.twoPeople && session.current.userId === week.settlement?.approvedById),
  );
  const pay = () => {
    const id = week.settlement!.id;
    return run(
      () =>
        take(
          api.POST('/api/settlements/{id}/pay', {
            params: { path: { id } },
            body: { paidOn: null, method, reference: null },
            headers: payKey,
          }),
        ),
      `${week.driver} paid ${said(week.net)}.`,
      () => back(id, 'unpay'),
    );
  };
</script>

<svelte:window onkeydown={onkey} />

{#snippet takeBack(item: number | null | undefined)}
  {#if item && !own && !week.settlement && session.may('paying.enter')}<button
      class="text-lark ml-2 text-sm hover:underline"
      onclick={() => takeItemBack(item)}>remove</button
    >{/if}
{/snippet}

<div class="px-5 pt-4 pb-8">
  <div class="flex items-baseline justify-between gap-3 {own ? '' : 'pr-8'}">
    <h2 class="text-lg">
      <b>{week.driver}</b>
      {formatDate(week.monday)} – {formatDate(addDays(week.monday, 6))}
    </h2>
    <span class="fig text-lg font-bold">{figure(week.net)}</span>
  </div>
  <p class="text-mute mb-3 text-sm">
    {own ? 'Your pay so far' : 'The driver sees this settlement on their phone as it grows'}
  </p>
  <SettlementLine {week} />
  <dl class="mt-4 grid grid-cols-[auto_1fr_auto] gap-x-3 gap-y-1">
    {#each week.lines as line, n (n)}
      <dt class="fig font-bold">
        {#if own || !line.loadId}{line.loadNumber ?? ''}{:else}<a
            class="text-lark hover:underline"
            href="/load/{line.loadId}">{line.loadNumber}</a
          >{/if}
      </dt>
      <dd class="min-w-0">
        {line.what.replace(' to ', ' → ')}, <span class="text-mute text-sm">{how(line)}</span>{@render takeBack(
          line.itemId,
        )}
      </dd>
      <dd class="fig text-right">{figure(line.amount)}</dd>
    {/each}
    {#each week.reimbursements as r (r.itemId)}
      <dt></dt>
      <dd>
        Reimbursement, {r.what} <span class="text-mute text-sm">{formatDate(r.on)}</span>{@render takeBack(r.itemId)}
      </dd>
      <dd class="fig text-right">{figure(r.amount)}</dd>
    {/each}
    {#each week.deductions as d, n (n)}
      <dt></dt>
      <dd class="text-mute">
        {d.advanceId ? 'Advance' : 'Deduction,'}
        {d.advanceId ? `${formatDay(d.on)}, ${d.what}` : d.what}{@render takeBack(
          d.itemId,
        )}{#if d.advanceId && !own && !week.settlement && session.may('paying.enter')}<button
            class="text-lark ml-2 text-sm hover:underline"
            onclick={() => voidAdvance(d.advanceId!)}>void</button
          >{/if}
      </dd>
      <dd class="fig text-mute text-right">−{figure(d.amount)}</dd>
    {/each}
    {#if cents(week.carriedOver) > 0}
      <dt></dt>
      <dd class="text-marigold-word">Carried over to later settlements</dd>
      <dd class="fig text-marigold-word text-right">{figure(week.carriedOver)}</dd>
    {/if}
    <dt></dt>
    <dd class="border-line border-t pt-1 font-bold">Net pay {formatDay(week.payDay)}</dd>
    <dd class="fig border-line border-t pt-1 text-right font-bold">{figure(week.net)}</dd>
    {#if !own && cents(week.employerTax) > 0}
      <dt></dt>
      <dd class="text-mute text-sm">Employer payroll tax, not part of the pay</dd>
      <dd class="fig text-mute text-right text-sm">{figure(week.employerTax)}</dd>
    {/if}
  </dl>
  <p class="text-mute mt-2 text-sm">
    {week.miles} miles by road; {week.daysOut}
    {week.daysOut === 1 ? 'day' : 'days'} out.
    <a
      class="text-lark underline"
      href={own ? `/api/mine/settlements/${week.monday}/pdf` : `/api/settlements/${week.driverId}/${week.monday}/pdf`}
      target="_blank"
      rel="noopener">Settlement statement (PDF)</a
    >{#if !own}&ensp;<a class="text-lark underline" href="/setup?tab=fleet&driver={week.driverId}">Pay rates</a>{/if}
  </p>
  {#if refused}<div class="mt-3"><Notice>{refused}</Notice></div>{/if}
  {#if !own}
    <div class="mt-4 flex flex-wrap items-end gap-3">
      {#if !week.settlement}
        {#if !week.ended}<p class="text-mute text-sm">
            The settlement week ends Sunday; it can be approved after that.
          </p>
        {:else if session.may('paying.approve')}<Button look="main" {busy} onclick={approve}
            >Approve {figure(week.net)}</Button
          >{/if}
      {:else if !week.settlement.paidOn}
        {#if mayPay}
          <Choice label="Method" class="w-28" bind:value={method} options={options(methodLabels)} />
          <Button look="main" {busy} onclick={pay}>Pay {week.driver} {figure(week.net)}</Button>
        {/if}
        <p class="text-mute text-sm">
          approved by {week.settlement.approvedBy}{week.settlement.acknowledgedAt
            ? `, acknowledged by ${week.driver.split(' ')[0]}`
            : ', not acknowledged yet'}{!mayPay && session.may('paying.pay') ? '; another person must pay it' : ''}
        </p>
        {#if session.may('paying.approve')}<Button
            look="quiet"
            small
            {busy}
            onclick={() =>
              run(() => back(week.settlement!.id, 'unapprove'), 'Approval reversed: the settlement is open again.')}
            >Reverse approval</Button
          >{/if}
      {:else}
        <p class="text-moss-word text-sm font-bold">
          Paid {formatDay(week.settlement.paidOn)} by {methodLabels[week.settlement.paidMethod ?? '']}
        </p>
        {#if session.may('paying.pay')}<Button
            look="quiet"
            small
            {busy}
            onclick={() =>
              run(() => back(week.settlement!.id, 'unpay'), 'Payment reversed: the settlement is due again.')}
            >Reverse payment</Button
          >{/if}
      {/if}
    </div>
    {#if !week.settlement && session.may('paying.enter')}
      <PayItemForm driverId={week.driverId} ondone={() => onchanged?.()} />
    {/if}
  {:else if week.settlement}
    {#if !week.settlement.acknowledgedAt}<Button class="mt-3" look="main" {busy} onclick={seen}>Acknowledge</Button
      >{/if}
    <p class="mt-3 text-sm">
      {week.settlement.paidOn
        ? `Paid ${formatDay(week.settlement.paidOn)}.`
        : `Approved, paid ${formatDay(week.payDay)}.`}
    </p>
  {/if}
</div>
