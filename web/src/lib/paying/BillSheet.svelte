<script lang="ts">
  import { api, moneyKey, sendBillDocument, take, type Money, type Schemas } from '$lib/api/client';
  import { latest } from '$lib/api/latest';
  import { methodNames } from '$lib/loads/labels';
  import { cents, figure } from '$lib/money';
  import { onChange } from '$lib/state/change.svelte';
  import { live } from '$lib/state/live.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDay } from '$lib/time/when';
  import { inCurrency } from '$ui/currency';
  import Button from '$ui/Button.svelte';
  import BillPayments from './BillPayments.svelte';
  import BillLines from './BillLines.svelte';
  import Key from '$ui/Key.svelte';
  import { isPlain } from '$ui/keys';
  import MoneyField from '$ui/MoneyField.svelte';
  import Notice from '$ui/Notice.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';

  let { id, onchanged }: { id: number; onchanged?: () => void } = $props();
  let view = $state<Schemas['BillView'] | null>(null);
  let amount = $state<Money | null>(null);
  let reason = $state('');
  let quickPay = $state(false);
  const attempt = new Attempt();
  const bill = $derived(view?.bill ?? null);
  inCurrency(() => bill?.amount?.currency);
  const load = latest(
    () => take(api.GET('/api/bills/{id}', { params: { path: { id } } })),
    (answer) => (view = answer),
    showError,
  );
  onChange(
    () => id,
    () => {
      view = null;
      amount = null;
      reason = '';
      quickPay = false;
      attempt.refused = null;
      void load().then(() => {
        const b = view?.bill;
        if (b) amount = b.agreed && cents(b.amount) > cents(b.agreed) ? b.agreed : b.amount;
      });
      return live.follow(load, ['bills', 'claims', 'documents']);
    },
  );
  type Path = 'approve' | 'unapprove' | 'void';
  const send = (path: Path, body?: unknown) =>
    take(
      api.POST(`/api/bills/{id}/${path}` as '/api/bills/{id}/approve', {
        params: { path: { id } },
        body: body as Schemas['ApproveBillRequest'],
        headers: moneyKey(),
      }),
    );
  async function run(path: Path, body: unknown, text: (b: Schemas['BillRow']) => string) {
    await attempt.run(async () => {
      const done = await send(path, body);
      showDone(
        text(done),
        path === 'approve'
          ? () =>
              send('unapprove').then(() => {
                void load();
                onchanged?.();
              })
          : undefined,
      );
      await load();
      onchanged?.();
    });
  }
  let approving = $state<HTMLElement>();
  /** a goes to the amount to approve; Enter goes on from there. */
  function key(e: KeyboardEvent) {
    const field = e.key === 'a' && isPlain(e) ? approving?.querySelector('input') : null;
    if (!field) return;
    e.preventDefault();
    field.focus();
    field.select();
  }
  async function attach(files: FileList | null) {
    for (const file of files ?? []) await sendBillDocument(id, file).catch(showError);
    await load();
  }
</script>

<svelte:window onkeydown={key} />
{#if !bill || !view}<p class="text-mute p-5" role="status">Loading …</p>
{:else}
  <div class="px-5 pt-4 pb-3">
    <h2 class="pr-8 text-lg"><span class="fig font-bold">{bill.number}</span> {bill.vendor}</h2>
    {#if bill.loadId}<p class="text-mute text-sm">
        load <a class="text-lark hover:underline" href="/load/{bill.loadId}">{bill.loadNumber}</a>, {bill.lane}
      </p>{/if}
    <p class="text-mute text-sm">
      {bill.spent ? 'spent' : 'billed'}
      {formatDay(bill.billedOn)}{bill.spent ? '' : `, due ${formatDay(bill.dueOn)}`}
    </p>
    {#if bill.note}<p class="text-sm">{bill.note}</p>{/if}
  </div>
  {#if bill.agreed}
    <Part title="Comparison with the agreed amount">
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
      </dl>
    </Part>
  {/if}
  <Part title="Accounts">
    <BillLines {view} onchanged={() => void load()} />
    {#if bill.approvedWhy}<p class="text-mute mt-1 text-sm">{bill.approvedWhy}</p>{/if}
  </Part>
  <Part title="Attachments">
    {#each view.documents as paper (paper.id)}
      <p class="text-sm">
        <a
          class="text-lark font-bold hover:underline"
          href="/api/bills/{id}/documents/{paper.id}"
          target="_blank"
          rel="noopener">{paper.fileName}</a
        >
        <span class="text-mute">{Math.max(1, Math.round(paper.size / 1024))} kB</span>
      </p>
    {/each}
    {#if session.may('paying.enter') && !bill.voidedAt}
      <label class="text-lark focus-within:outline-lark cursor-pointer text-sm font-bold focus-within:outline-2"
        >Add a file<input
          type="file"
          multiple
          class="sr-only"
          accept="application/pdf,image/jpeg,image/png"
          onchange={(e) => attach(e.currentTarget.files)}
        /></label
      >
    {:else if view.documents.length === 0}<p class="text-mute text-sm">None.</p>{/if}
  </Part>
  {#if bill.voidedAt}
    <Part title="Void"><p class="text-mute text-sm">This bill is void.</p></Part>
  {:else if !bill.approved && session.may('paying.approve')}
    <Part title="Approve">
      <div class="flex flex-col gap-2" data-form bind:this={approving}>
        <div class="grid grid-cols-2 gap-3">
          <MoneyField label="Amount approved" bind:value={amount} required problem={attempt.at('amount')} />
          <TextField
            label="Reason"
            bind:value={reason}
            maxlength={400}
            required={!!bill.agreed && cents(amount) > cents(bill.agreed)}
            problem={attempt.at('reason')}
          />
        </div>
        {#if view.quickPay}<label class="flex items-center gap-2 text-sm"
            ><input type="checkbox" bind:checked={quickPay} />Quick pay by {formatDay(view.quickPay.dueOn)}, less {figure(
              view.quickPay.discount,
            )}</label
          >{/if}
        {#if !bill.hasPod}<Notice title="No POD"
            >Attach the POD to load {bill.loadNumber} before you approve this bill.</Notice
          >{/if}
        {#if attempt.refused && attempt.refused.general}<Notice>{attempt.refused.general}</Notice>{/if}
        <div class="flex gap-2">
          <Button
            data-main
            look="main"
            busy={attempt.busy}
            disabled={!amount}
            onclick={() =>
              run(
                'approve',
                { amount, reason: reason || null, quickPay },
                (b) => `Bill ${b.number} approved for ${figure(b.approved)}, due ${formatDay(b.dueOn)}.`,
              )}><span>Approve {figure(amount)}</span> <Key>a</Key></Button
          >
          {#if session.may('paying.enter')}<Button
              look="quiet"
              busy={attempt.busy}
              onclick={() => run('void', undefined, (b) => `Bill ${b.number} voided.`)}>Void bill</Button
            >{/if}
        </div>
      </div>
    </Part>
  {:else if bill.spent && bill.paidOn}
    <Part title="Expense"
      ><p class="text-moss-word font-bold">
        {formatDay(bill.paidOn)} by {methodNames[bill.paidMethod ?? '']}
        {bill.paidReference ?? ''}
        {#if bill.paidBy}<span class="text-mute font-normal">· {bill.paidBy}</span>{/if}
      </p>
      {#if attempt.refused}<Notice>{attempt.refused.message}</Notice>{/if}
      {#if session.may('paying.enter')}<button
          class="text-lark mt-1 text-sm hover:underline"
          onclick={() => run('void', undefined, (b) => `Expense ${b.number} at ${b.vendor} voided.`)}
          >Void expense</button
        >{/if}</Part
    >
  {:else if bill.approved}
    <BillPayments
      {view}
      onchanged={async () => {
        await load();
        onchanged?.();
      }}
      onunapprove={() => run('unapprove', undefined, (b) => `Approval of ${b.number} reversed.`)}
    />
  {/if}
  {#if session.may('ledger.see')}<Part title="Ledger entries"
      ><a class="text-lark text-sm hover:underline" href="/ledger?tab=lines&company={bill.vendorId}"
        >All ledger entries for {bill.vendor}</a
      ></Part
    >{/if}
{/if}
