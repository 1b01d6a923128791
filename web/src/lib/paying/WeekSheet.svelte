<script lang="ts" module>
  const weekEnd = (monday: string) =>
    new Date(Date.parse(`${monday}T00:00:00Z`) + 6 * 86_400_000).toISOString().slice(0, 10);
</script>

<script lang="ts">
  import { api, moneyKey, Refused, take, type Schemas } from '$lib/api/client';
  import { methodWords } from '$lib/loads/words';
  import { cents, figure, said } from '$lib/money';
  import { told, wentWrong } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { saidDay } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import Notice from '$ui/Notice.svelte';
  import WeekLine from './WeekLine.svelte';

  interface Props {
    week: Schemas['WeekView'];
    onchanged?: () => void;
    /** His own page: he looks, others approve and pay. */
    own?: boolean;
  }
  let { week, onchanged, own = false }: Props = $props();
  let busy = $state(false);
  let method = $state('ach');
  let refused = $state('');
  const key = moneyKey();
  const payKey = moneyKey();

  async function run(act: () => Promise<unknown>, text: string) {
    busy = true;
    refused = '';
    try {
      await act();
      told(text);
    } catch (e) {
      if (e instanceof Refused) refused = e.message;
      else wentWrong(e);
    } finally {
      busy = false;
      onchanged?.();
    }
  }
  const approve = () =>
    run(
      () =>
        take(api.POST('/api/weeks/approve', { body: { driverId: week.driverId, monday: week.monday }, headers: key })),
      `${week.driver}’s week approved at ${said(week.net)}.`,
    );
  const pay = () =>
    run(
      () =>
        take(
          api.POST('/api/settlements/{id}/pay', {
            params: { path: { id: week.settlement!.id } },
            body: { paidOn: null, method, reference: null },
            headers: payKey,
          }),
        ),
      `${week.driver} paid ${said(week.net)}.`,
    );
</script>

<div class="px-5 pt-4 pb-8">
  <div class="flex items-baseline justify-between gap-3 {own ? '' : 'pr-8'}">
    <h2 class="text-lg">
      <b>{week.driver}</b>
      {saidDay(week.monday).slice(4)} – {saidDay(weekEnd(week.monday)).slice(4)}
    </h2>
    <span class="fig text-lg font-bold">{figure(week.net)}</span>
  </div>
  <p class="text-mute mb-3 text-sm">
    {own ? 'Your pay as it grows' : 'The driver sees this same page on the phone, as it grows'}
  </p>
  <WeekLine {week} />
  <dl class="mt-4 grid grid-cols-[auto_1fr_auto] gap-x-3 gap-y-1">
    {#each week.legs as leg (leg.legId)}
      <dt class="fig font-bold">
        {#if own}{leg.loadNumber}{:else}<a class="text-lark hover:underline" href="/load/{leg.loadId}"
            >{leg.loadNumber}</a
          >{/if}
      </dt>
      <dd class="min-w-0">
        {leg.lane.replace(' to ', ' → ')},
        <span class="text-mute text-sm">{leg.miles} mi at {leg.rate.toFixed(3).replace(/0$/, '')}</span>
      </dd>
      <dd class="fig text-right">{figure(leg.amount)}</dd>
    {/each}
    {#if week.perDiemDays > 0}
      <dt></dt>
      <dd>
        Per diem, <span class="text-mute text-sm"
          >{week.perDiemDays} {week.perDiemDays === 1 ? 'day' : 'days'} at {figure(week.perDiemRate)}</span
        >
      </dd>
      <dd class="fig text-right">{figure(week.perDiem)}</dd>
    {/if}
    {#each week.deductions as d (d.drawId)}
      <dt></dt>
      <dd class="text-mute">Drawn {saidDay(d.on)}{d.note ? `, ${d.note}` : ''}</dd>
      <dd class="fig text-mute text-right">−{figure(d.amount)}</dd>
    {/each}
    <dt></dt>
    <dd class="border-line border-t pt-1 font-bold">To pay {saidDay(week.payDay)}</dd>
    <dd class="fig border-line border-t pt-1 text-right font-bold">{figure(week.net)}</dd>
  </dl>
  <p class="text-mute mt-2 text-sm">{week.miles} miles paid, by estimate on straight lines with a road factor.</p>
  {#if refused}<div class="mt-3"><Notice>{refused}</Notice></div>{/if}
  {#if !own}
    <div class="mt-4 flex items-end gap-3">
      {#if !week.settlement}
        {#if !week.ended}<p class="text-mute text-sm">The week runs until Sunday; then it can be approved.</p>
        {:else if session.may('paying.approve') && cents(week.earned) > 0}<Button look="main" {busy} onclick={approve}
            >Approve {figure(week.net)}</Button
          >{/if}
      {:else if !week.settlement.paidOn}
        {#if session.may('paying.pay')}
          <Choice
            label="How"
            class="w-28"
            bind:value={method}
            options={Object.entries(methodWords).map(([value, label]) => ({ value, label }))}
          />
          <Button look="main" {busy} onclick={pay}>Pay {week.driver} {figure(week.net)}</Button>
        {/if}
        <p class="text-mute text-sm">approved by {week.settlement.approvedBy}</p>
      {:else}
        <p class="text-moss-word text-sm font-bold">
          Paid {saidDay(week.settlement.paidOn)} by {methodWords[week.settlement.paidMethod ?? '']}
        </p>
      {/if}
    </div>
  {:else if week.settlement}
    <p class="mt-3 text-sm">
      {week.settlement.paidOn ? `Paid ${saidDay(week.settlement.paidOn)}.` : `Approved, paid ${saidDay(week.payDay)}.`}
    </p>
  {/if}
</div>
