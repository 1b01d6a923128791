<script lang="ts">
  import { api, moneyKey, sendFile, take, type Schemas } from '$lib/api/client';
  import { figure, said } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDate } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import TextField from '$ui/TextField.svelte';
  import { expenseLabels, paidByLabels, quantityOf } from './expenses';

  /** An expense with what can be done with it. */
  interface Props {
    x: Schemas['TripExpenseRow'];
    /** Whether its trip and driver are named. */
    trip?: boolean;
    onchanged: () => Promise<void>;
  }
  let { x, trip = false, onchanged }: Props = $props();
  const attempt = new Attempt();
  let declining = $state(false);
  let reason = $state('');
  const name = $derived(`${expenseLabels[x.kind]}, ${said(x.amount)}`);
  const path = $derived({ params: { path: { id: x.id } } });
  const posts = $derived(session.may('paying.enter'));
  const reopen = () => take(api.POST('/api/expenses/{id}/reopen', path)).then(onchanged);
  const approve = () =>
    attempt.run(async () => {
      await take(api.POST('/api/expenses/{id}/approve', { ...path, headers: moneyKey() }));
      showDone(`${name}, approved.`, reopen);
      await onchanged();
    });
  const decline = () =>
    attempt.run(async () => {
      await take(api.POST('/api/expenses/{id}/decline', { ...path, body: { reason } }));
      declining = false;
      showDone(`${name}, declined.`, reopen);
      await onchanged();
    });
  const remove = () =>
    attempt.run(async () => {
      await take(api.POST('/api/expenses/{id}/remove', path));
      showDone(`${name}, removed.`, posts ? reopen : undefined);
      await onchanged();
    });
  const add = (file: File | undefined) =>
    file &&
    attempt.run(async () => {
      await sendFile(`/api/expenses/${x.id}/receipt?name=${encodeURIComponent(file.name)}`, file);
      showDone('Receipt added.');
      await onchanged();
    });
  const states = { reported: 'to approve', approved: '', declined: 'declined', removed: 'removed' };
  const paid = $derived(
    x.paidBy === 'on_account' && x.vendor ? `on account with ${x.vendor}` : paidByLabels[x.paidBy].toLowerCase(),
  );
  const details = $derived(
    [
      trip && x.driver,
      x.quantity && `${quantityOf(x)} at ${Number(x.price).toFixed(3)}`,
      x.chargeBack ? `${paid}, charged back` : paid,
      x.load && `load ${x.load}`,
      x.reference,
      x.note,
      trip && x.reportedBy === x.driver ? '' : `by ${x.reportedBy}`,
    ]
      .filter(Boolean)
      .join(' · '),
  );
</script>

<div class="border-line border-b py-1.5 last:border-0">
  <div class="flex flex-wrap items-baseline gap-x-3 gap-y-1">
    <span class="text-mute w-14 shrink-0 text-sm">{formatDate(x.on)}</span>
    <span class="min-w-60 flex-1">
      <b>{expenseLabels[x.kind]}</b>
      {[x.place, x.region].filter(Boolean).join(' ')}
      {#if states[x.state]}<b class="{x.state === 'reported' ? 'text-marigold-word' : 'text-ember-word'} text-sm"
          >{states[x.state]}{x.reason ? `: ${x.reason}` : ''}</b
        >{/if}
      <span class="text-mute block text-sm">
        {#if trip}<a class="text-lark underline" href="/trip/{x.tripId}">trip {x.trip}</a>{/if}{trip
          ? ` · ${details}`
          : details}
      </span>
    </span>
    <span class="ml-auto flex shrink-0 items-center gap-1">
      {#if x.receiptId}<a
          class="text-lark px-2 text-sm underline"
          href="/api/documents/{x.receiptId}/file"
          target="_blank">Receipt</a
        >
      {:else if session.may('loads.roll') || posts}<label
          class="text-mute hover:bg-faint focus-within:outline-lark cursor-pointer rounded px-2 text-sm focus-within:outline-2"
          >Add receipt<input
            type="file"
            class="sr-only"
            accept="image/*,application/pdf"
            aria-label="Receipt for {name}"
            onchange={(e) => void add(e.currentTarget.files?.[0])}
          /></label
        >{/if}
      {#if x.billId && session.may('paying.see')}<a
          class="text-lark px-2 text-sm underline"
          href="/pay?tab=bills&bill={x.billId}">Bill</a
        >{/if}
      {#if x.state === 'reported' && posts}
        <Button small busy={attempt.busy} aria-label="Approve {name}" onclick={approve}>Approve</Button>
        <Button small look="quiet" aria-label="Decline {name}" onclick={() => (declining = !declining)}>Decline</Button>
      {/if}
      {#if x.state === 'declined' && posts}<Button
          small
          look="quiet"
          aria-label="Reopen {name}"
          onclick={() => void reopen().catch(showError)}>Reopen</Button
        >{/if}
      {#if posts || (session.may('loads.roll') && x.state !== 'approved')}<Button
          small
          look="quiet"
          busy={attempt.busy}
          aria-label="Remove {name}"
          onclick={remove}>Remove</Button
        >{/if}
    </span>
    <span class="fig w-24 shrink-0 text-right {x.state === 'declined' ? 'text-mute line-through' : ''}"
      >{figure(x.amount)}</span
    >
  </div>
  {#if declining}
    <InnerForm {attempt} action="Decline" onact={decline} oncancel={() => (declining = false)}>
      <TextField
        label="Reason, shown to the driver"
        required
        bind:value={reason}
        maxlength={200}
        problem={attempt.at('reason')}
      />
    </InnerForm>
  {:else if attempt.refused}<p class="text-ember-word mt-1 text-sm" role="alert">{attempt.refused.message}</p>{/if}
</div>
