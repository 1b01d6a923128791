<script lang="ts">
  import { api, moneyKey, Refused, take, type Schemas } from '$lib/api/client';
  import { keepShown, latest } from '$lib/api/latest';
  import { methodNames } from '$lib/loads/labels';
  import { cents, figure } from '$lib/money';
  import { onChange } from '$lib/state/change.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDay, formatLocal, localAt } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Notice from '$ui/Notice.svelte';
  import Part from '$ui/Part.svelte';
  import ClaimSteps, { type Step } from './ClaimSteps.svelte';
  import { claimKinds, claimOutcomes, claimState } from './labels';

  /** A cargo claim: what happened, what is due next, the customer's side and the carrier's. */
  let { id }: { id: number } = $props();
  let view = $state<Schemas['ClaimView'] | null>(null);
  let problem = $state('');
  let step = $state<Step | null>(null);
  let busy = $state(false);
  const load: () => Promise<void> = latest(
    () => take(api.GET('/api/claims/{id}', { params: { path: { id } } })),
    (answer) => (view = answer),
    keepShown(
      () => view,
      () => void load(),
      (e) => (problem = e instanceof Refused ? e.message : 'This claim could not be loaded.'),
    ),
  );
  onChange(
    () => id,
    () => {
      view = null;
      problem = '';
      step = null;
      void load();
      return live.follow(load, ['claims', 'bills', 'payments']);
    },
  );
  const c = $derived(view?.claim);
  const path = $derived({ params: { path: { id } } });
  async function run(act: () => Promise<unknown>, said: string) {
    busy = true;
    try {
      await act();
      showDone(said);
    } catch (e) {
      showError(e);
    } finally {
      busy = false;
    }
    await load();
  }
  const acknowledge = () => run(() => take(api.POST('/api/claims/{id}/acknowledge', path)), 'Claim acknowledged.');
  const reopen = () => run(() => take(api.POST('/api/claims/{id}/reopen', path)), 'Claim reopened.');
  const reverse = (recovery: number) =>
    run(
      () =>
        take(
          api.POST('/api/claim-recoveries/{id}/reverse', {
            params: { path: { id: recovery } },
            headers: moneyKey(),
          }),
        ),
      'Receipt reversed.',
    );
  const mayDecide = $derived(session.may('billing.receive'));
  const mayPay = $derived(session.may('paying.approve'));
</script>

{#if problem}<p class="p-5" role="alert">{problem}</p>
{:else if !view || !c}<p class="text-mute p-5" role="status">Loading …</p>
{:else}
  <div class="px-5 pt-4 pb-3">
    <h2 class="pr-8 text-lg"><span class="fig font-bold">{c.number}</span> {claimKinds[c.kind]}, {claimState(c)}</h2>
    <p class="text-mute text-sm">
      load <a class="text-lark hover:underline" href="/load/{c.loadId}">{c.loadNumber}</a>, {c.customer}{c.deliveredOn
        ? `, delivered ${formatDay(c.deliveredOn)}`
        : ''}
    </p>
    <p class="mt-1">{c.description}</p>
    {#if view.next}
      <p class="mt-2 {view.next.on < session.today ? 'text-ember-word' : 'text-marigold-word'} font-bold">
        By {formatDay(view.next.on)}: {view.next.what} <span class="text-mute font-normal">({view.next.rule})</span>
      </p>
    {/if}
    <div class="mt-3 flex flex-wrap gap-2">
      {#if mayDecide && c.status === 'reported'}<Button small look="main" onclick={() => (step = 'file')}
          >Record written claim</Button
        >{/if}
      {#if mayDecide && c.status === 'filed'}<Button small look="main" {busy} onclick={acknowledge}>Acknowledge</Button
        >{/if}
      {#if mayDecide && c.status !== 'decided'}<Button
          small
          look={c.status === 'acknowledged' ? 'main' : undefined}
          onclick={() => (step = 'decide')}>Decide</Button
        >{/if}
      {#if mayPay && c.legId && !c.carrierFiledOn}<Button small onclick={() => (step = 'carrier')}
          >File with carrier</Button
        >{/if}
      {#if mayDecide && c.legId && (c.carrierFiledOn || cents(c.allowed))}<Button
          small
          onclick={() => (step = 'recover')}>Record receipt</Button
        >{/if}
      {#if mayPay && c.holdsPay}<Button small look="quiet" onclick={() => (step = 'release')}>Release pay</Button>{/if}
      {#if mayDecide && c.status === 'decided' && !c.memo}<Button small look="quiet" {busy} onclick={reopen}
          >Reopen</Button
        >{/if}
    </div>
    {#if step}{#key step}<ClaimSteps
          claim={c}
          {step}
          ondone={() => {
            step = null;
            void load();
          }}
          oncancel={() => (step = null)}
        />{/key}{/if}
  </div>
  <Part title="Customer">
    <dl class="grid grid-cols-[1fr_auto] gap-y-1">
      {#if c.filedOn}
        <dt>Claimed, received {formatDay(c.filedOn)}</dt>
        <dd class="fig text-right">{figure(c.claimed)}</dd>
      {:else}<dt class="text-mute">No written claim yet</dt>
        <dd></dd>{/if}
      {#if c.acknowledgedOn}
        <dt class="text-mute">Acknowledged {formatDay(c.acknowledgedOn)}</dt>
        <dd></dd>
      {/if}
      {#if c.outcome}
        <dt>
          {claimOutcomes[c.outcome]}, {formatDay(c.decidedOn!)}
          {#if c.memoId}<a class="text-lark hover:underline" href="/bill?tab=in&payment={c.memoId}">{c.memo}</a>{/if}
        </dt>
        <dd class="fig text-right">{figure(c.allowed)}</dd>
      {/if}
    </dl>
    {#if c.decidedWhy}<p class="text-mute text-sm">{c.decidedWhy}</p>{/if}
  </Part>
  {#if c.legId}
    <Part title="Carrier">
      {#if c.holdsPay}<div class="mb-2">
          <Notice title="Pay on hold"
            >Bills of {c.carrier} for this load are not paid until the claim is decided and recovered.</Notice
          >
        </div>{/if}
      <dl class="grid grid-cols-[1fr_auto] gap-y-1">
        <dt>{c.carrier}{c.carrierFiledOn ? `, claim filed ${formatDay(c.carrierFiledOn)}` : ', not filed'}</dt>
        <dd class="fig text-right">{c.carrierFiledOn ? figure(c.carrierClaimed) : ''}</dd>
        {#each view.recoveries as r (r.id)}
          <dt class={r.stands ? '' : 'text-mute line-through'}>
            {formatDay(r.receivedOn)} by {methodNames[r.method]}
            {r.reference ?? ''}
            {#if r.stands && !r.paymentId && mayDecide}<button
                class="text-lark hover:underline"
                onclick={() => reverse(r.id)}>Reverse</button
              >{/if}
          </dt>
          <dd class="fig text-right {r.stands ? '' : 'text-mute line-through'}">{figure(r.amount)}</dd>
        {/each}
        {#if view.recoveries.length > 1}
          <dt class="font-bold">Recovered</dt>
          <dd class="fig text-right font-bold">{figure(c.recovered)}</dd>
        {/if}
      </dl>
      {#if c.releasedWhy}<p class="text-mute text-sm">Pay released: {c.releasedWhy}</p>{/if}
      {#each view.bills as b (b.id)}
        <p class="mt-1 text-sm">
          <a class="text-lark font-bold hover:underline" href="/pay?tab=bills&bill={b.id}">Bill {b.number}</a>
          {figure(b.approved ?? b.amount)}{b.voidedAt
            ? ', void'
            : b.paidOn
              ? `, paid ${formatDay(b.paidOn)}`
              : b.approved
                ? ', approved'
                : ', to approve'}
        </p>
      {/each}
    </Part>
  {:else}<Part title="Carrier"><p class="text-mute text-sm">Our own truck moved this load.</p></Part>{/if}
  <Part title="History">
    {#each view.events as e (e.id)}
      <p class="text-sm">
        <span class="text-mute">{formatLocal(localAt(e.at, session.zone))}{e.who ? `, ${e.who}` : ''}</span> · {e.summary}
      </p>
    {/each}
  </Part>
{/if}
