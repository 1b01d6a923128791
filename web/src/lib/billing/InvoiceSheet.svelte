<script lang="ts">
  import { api, moneyKey, Refused, take, type Schemas } from '$lib/api/client';
  import { keepShown, latest } from '$lib/api/latest';
  import { methodNames } from '$lib/loads/labels';
  import { cents, figure } from '$lib/money';
  import { onChange } from '$lib/state/change.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { localAt, formatDay, formatLocal } from '$lib/time/when';
  import { inCurrency } from '$ui/currency';
  import Button from '$ui/Button.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';
  import { shortPayKinds } from './kinds';
  import CreditMemoForm from './CreditMemoForm.svelte';
  import LateChargesForm from './LateChargesForm.svelte';
  import WriteOffForm from './WriteOffForm.svelte';

  let {
    id,
    onreceive,
    onagain,
  }: { id: number; onreceive: (customerId: number) => void; onagain?: (loadIds: number[]) => void } = $props();
  let sending = $state(false);
  /** The open form: write-off, credit memo or late charge. */
  let correcting = $state<'writeOff' | 'credit' | 'late' | null>(null);
  let to = $state('');
  const attempt = new Attempt();
  let sheet = $state<Schemas['InvoiceSheet'] | null>(null);
  let problem = $state('');
  const load: () => Promise<void> = latest(
    () => take(api.GET('/api/invoices/{id}', { params: { path: { id } } })),
    (answer) => (sheet = answer),
    keepShown(
      () => sheet,
      () => void load(),
      (e) => (problem = e instanceof Refused ? e.message : 'This invoice could not be loaded.'),
    ),
  );
  onChange(
    () => id,
    () => {
      sheet = null;
      problem = '';
      correcting = null;
      void load();
      return live.follow(load, ['invoices', 'mail']);
    },
  );
  const i = $derived(sheet?.invoice);
  inCurrency(() => i?.total?.currency);
  async function voidIt() {
    try {
      await take(api.POST('/api/invoices/{id}/void', { params: { path: { id } }, headers: moneyKey() }));
      showDone(i?.isOpening ? `${i.number} voided.` : `${i?.number} voided; its loads are ready to bill again.`);
    } catch (e) {
      showError(e);
    }
    await load();
  }
  const sendAgain = () =>
    attempt.run(async (money) => {
      const sent = await take(
        api.POST('/api/invoices/{id}/send', {
          params: { path: { id } },
          body: { to: to || null, message: null },
          headers: money,
        }),
      );
      showDone(`${sent.number} resent to ${to || sent.mailedTo}.`);
      sending = false;
      await load();
    });
  const corrected = () => {
    correcting = null;
    void load();
  };
  const loads = $derived(
    [...new Map((sheet?.lines ?? []).map((l) => [l.loadId, l.loadNumber]))].map(([id, number]) => ({ id, number })),
  );
  const loadIds = $derived(loads.map((l) => l.id));
  async function reverse(p: Schemas['InvoicePayment']) {
    const headers = moneyKey();
    try {
      if (p.paymentId)
        await take(api.POST('/api/payments/{id}/reverse', { params: { path: { id: p.paymentId } }, headers }));
      else await take(api.POST('/api/write-offs/{id}/reverse', { params: { path: { id: p.id } }, headers }));
      showDone(
        p.method === 'credit_memo'
          ? 'Credit memo reversed.'
          : p.paymentId
            ? 'Payment reversed.'
            : 'Write-off reversed.',
      );
    } catch (e) {
      showError(e);
    }
    await load();
  }
</script>

{#if problem}<p class="p-5" role="alert">{problem}</p>
{:else if !sheet || !i}<p class="text-mute p-5" role="status">Loading …</p>
{:else}
  <div class="px-5 pt-4 pb-3">
    <div class="flex items-baseline justify-between gap-2 pr-8">
      <h2 class="text-lg"><span class="fig font-bold">{i.number}</span> {i.customer}</h2>
    </div>
    <p class="text-mute text-sm">
      {formatDay(i.issuedOn)}, due {formatDay(i.dueOn)}{i.voidedAt ? ' · void' : ''}
    </p>
    <p class="mt-1 text-sm">
      {i.isOpening
        ? 'Opening balance: issued before the books began here.'
        : i.mailSentAt
          ? `Emailed to ${i.mailedTo} ${formatLocal(localAt(i.mailSentAt, session.zone))}`
          : i.voidedAt
            ? ''
            : i.issuedOn < session.today
              ? `To ${i.mailedTo}`
              : `Sending to ${i.mailedTo}`}
    </p>
    <div class="mt-3 flex flex-wrap gap-2">
      {#if session.may('billing.receive') && cents(i.open) > 0 && !i.voidedAt}<Button
          look="main"
          small
          onclick={() => onreceive(i.customerId)}>Record payment</Button
        >{/if}
      {#if !i.isOpening}<a
          class="border-lark text-lark hover:bg-lark-tint inline-flex h-7 items-center rounded-md border px-2.5 text-sm font-bold"
          href="/api/invoices/{i.id}/pdf"
          target="_blank"
          rel="noopener">Open PDF with attachments</a
        >{/if}
      {#if session.may('billing.invoice') && !i.isOpening}
        {#if i.voidedAt}<Button small look="main" onclick={() => onagain?.(loadIds)}>Rebill these loads</Button>
        {:else}<Button small look="quiet" onclick={() => (sending = !sending)}>Resend</Button>{/if}
      {/if}
      {#if session.may('billing.receive') && cents(i.open) > 0 && !i.voidedAt}
        <Button small look="quiet" onclick={() => (correcting = 'writeOff')}>Write off</Button>
      {/if}
      {#if session.may('billing.receive') && !i.voidedAt}
        <Button small look="quiet" onclick={() => (correcting = 'credit')}>Credit memo</Button>
      {/if}
      {#if session.may('billing.invoice') && !i.voidedAt && !i.isOpening}
        <Button small look="quiet" onclick={() => (correcting = 'late')}>Late charge</Button>
      {/if}
    </div>
    {#if correcting === 'writeOff'}
      <WriteOffForm invoice={i} ondone={corrected} oncancel={() => (correcting = null)} />
    {:else if correcting === 'credit'}
      <CreditMemoForm invoice={i} ondone={corrected} oncancel={() => (correcting = null)} />
    {:else if correcting === 'late'}
      <LateChargesForm
        {loads}
        ondone={(loadId) => {
          correcting = null;
          onagain?.([loadId]);
        }}
        oncancel={() => (correcting = null)}
      />
    {/if}
    {#if sending}
      <form
        class="mt-2 flex items-end gap-2"
        onsubmit={(e) => {
          e.preventDefault();
          void sendAgain();
        }}
      >
        <TextField
          class="flex-1"
          label="To"
          bind:value={to}
          placeholder={i.mailedTo ?? ''}
          maxlength={400}
          problem={attempt.at('to')}
        />
        <Button small look="main" type="submit" busy={attempt.busy}>Send {i.number}</Button>
      </form>
      {#if attempt.refused?.general}<p class="text-ember-word text-sm" role="alert">{attempt.refused.general}</p>{/if}
    {/if}
  </div>
  <Part title="Lines">
    <dl class="grid grid-cols-[auto_1fr_auto] gap-x-3 gap-y-1">
      {#each sheet.lines as line, n (n)}
        <dt class="fig"><a class="text-lark hover:underline" href="/load/{line.loadId}">{line.loadNumber}</a></dt>
        <dd class="truncate">{line.description}</dd>
        <dd class="fig text-right">{figure(line.amount)}</dd>
      {/each}
      {#each sheet.taxes as tax (tax.name)}
        <dt></dt>
        <dd class="text-mute">{tax.name} on {figure(tax.on)}</dd>
        <dd class="fig text-right">{figure(tax.amount)}</dd>
      {/each}
      <dt></dt>
      <dd class="font-bold">Total</dd>
      <dd class="fig text-right font-bold">{figure(i.total)}</dd>
      {#if cents(i.paid) > 0}
        <dt></dt>
        <dd class="text-mute">Paid</dd>
        <dd class="fig text-mute text-right">−{figure(i.paid)}</dd>
        <dt></dt>
        <dd class="font-bold">Open</dd>
        <dd class="fig text-right font-bold">{figure(i.open)}</dd>
      {/if}
    </dl>
  </Part>
  <Part title="Payments">
    {#if sheet.payments.length === 0}<p class="text-mute text-sm">None yet.</p>{/if}
    {#each sheet.payments as p (p.id)}
      <p class="flex justify-between gap-2 text-sm {p.stands ? '' : 'text-mute line-through'}">
        <span
          >{formatDay(p.on)} · {p.method ? (methodNames[p.method] ?? p.method) : 'Written off'}
          {p.reference ?? ''}</span
        >
        <span class="flex gap-3"
          >{#if cents(p.writeOff)}<span class="text-marigold-word" title={p.reason ?? ''}
              >{figure(p.writeOff)} {p.kind ? shortPayKinds[p.kind] : ''}</span
            >{/if}{#if p.paymentId}<span class="fig">{figure(p.amount)}</span>{/if}
          {#if p.stands && session.may('billing.receive')}<button
              class="text-lark hover:underline"
              onclick={() => reverse(p)}>Reverse</button
            >{/if}</span
        >
      </p>
      {#if p.reason}<p class="text-mute text-sm">{p.reason}</p>{/if}
    {/each}
  </Part>
  <Part title="History">
    {#each sheet.events as e (e.id)}
      <p class="text-sm">
        <span class="text-mute">{formatLocal(localAt(e.at, session.zone))}{e.who ? `, ${e.who}` : ''}</span> · {e.summary}
      </p>
    {/each}
  </Part>
  <Part title="Ledger entries">
    <p class="flex gap-4 text-sm">
      {#if session.may('ledger.see')}<a
          class="text-lark hover:underline"
          href="/ledger?tab=lines&company={i.customerId}">All ledger entries for {i.customer}</a
        >{/if}
      {#if session.may('billing.invoice') && !i.voidedAt && cents(i.paid) === 0}<button
          class="text-lark hover:underline"
          onclick={voidIt}>Void invoice</button
        >{/if}
    </p>
  </Part>
{/if}
