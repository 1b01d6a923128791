<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { cents, figure, fromCents } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDay } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';

  /** Lines of journal entries, with what each is about; manual entries can be reversed. */
  let { lines, onreversed }: { lines: Schemas['LedgerLine'][]; onreversed: () => Promise<void> } = $props();
  let reversing = $state<{ id: number; why: string } | null>(null);
  const attempt = new Attempt();
  const reverse = () =>
    attempt.run(async (money) => {
      const made = await take(
        api.POST('/api/ledger/entries/{id}/reverse', {
          params: { path: { id: reversing!.id } },
          body: { on: null, why: reversing!.why },
          headers: money,
        }),
      );
      showDone(`Entry ${reversing!.id} reversed by entry ${made.id}.`);
      reversing = null;
      await onreversed();
    });

  const sourceWords: Record<string, string> = {
    opening: 'Opening',
    invoice: 'Invoice',
    invoice_void: 'Invoice voided',
    payment: 'Payment',
    payment_reversal: 'Payment reversed',
    bill: 'Bill',
    bill_reduction: 'Bill reduced',
    bill_void: 'Bill voided',
    bill_payment: 'Bill paid',
    advance: 'Driver advance',
    settlement: 'Settlement',
    settlement_payment: 'Settlement paid',
    expense: 'Expense',
    expense_void: 'Expense voided',
    trip_expense: 'Trip expense',
    credit_use: 'Credit applied',
    journal: 'Journal entry',
    journal_reversal: 'Reversal',
  };
  const source = (l: Schemas['LedgerLine']) =>
    l.source === 'invoice' || l.source === 'invoice_void'
      ? `/bill?invoice=${l.sourceId}`
      : l.source.startsWith('bill') || l.source.startsWith('expense')
        ? `/pay?tab=bills&bill=${l.sourceId}`
        : l.source === 'trip_expense'
          ? `/pay?tab=expenses&expense=${l.sourceId}`
          : l.source === 'payment' || l.source === 'payment_reversal'
            ? '/bill?tab=in'
            : null;
</script>

<table class="w-full">
  <thead
    ><tr class="text-mute border-line border-b text-left text-sm"
      ><th class="py-1.5 font-normal">Posted</th><th class="font-normal">Entry</th><th class="font-normal"
        >Description</th
      ><th class="font-normal">Account</th><th class="font-normal">Load, driver, truck</th><th
        class="text-right font-normal">Debit</th
      ><th class="pl-3 text-right font-normal">Credit</th></tr
    ></thead
  >
  <tbody>
    {#each lines as l (l.entryId + '-' + l.seq)}
      {@const link = source(l)}
      <tr class="border-line hover:bg-faint/60 h-[34px] border-b">
        <td class="pr-3 text-sm whitespace-nowrap">{formatDay(l.postedOn)}</td>
        <td class="fig pr-3 text-sm"
          ><a class="text-lark hover:underline" href="/ledger?tab=lines&entry={l.entryId}">{l.entryId}</a></td
        >
        <td class="pr-3"
          >{#if link}<a class="hover:underline" href={link}>{l.memo}</a>{:else}{l.memo}{/if}
          <span class="text-mute text-sm">{sourceWords[l.source]}{l.reversed ? ', reversed' : ''}</span>
          {#if l.source === 'journal' && !l.reversed && l.seq === 1 && session.may('ledger.post')}<button
              class="text-lark text-sm hover:underline"
              onclick={() => (reversing = { id: l.entryId, why: '' })}>Reverse</button
            >{/if}
          {#if reversing?.id === l.entryId && l.seq === 1}
            <form
              class="flex items-end gap-2 py-1"
              onsubmit={(e) => {
                e.preventDefault();
                void reverse();
              }}
            >
              <TextField
                class="flex-1"
                label="Reason"
                required
                bind:value={reversing.why}
                maxlength={160}
                problem={attempt.at('why')}
              />
              <Button small look="main" type="submit" busy={attempt.busy}>Reverse entry {l.entryId}</Button>
            </form>
            {#if attempt.refused?.general}<p class="text-ember-word text-sm" role="alert">
                {attempt.refused.general}
              </p>{/if}
          {/if}</td
        >
        <td class="pr-3 text-sm"><span class="fig">{l.account}</span> {l.accountName}</td>
        <td class="pr-3 text-sm"
          >{#if l.loadId}<a class="text-lark fig hover:underline" href="/load/{l.loadId}">{l.loadNumber}</a>{/if}
          {[l.customer, l.carrier, l.driver, l.truck && `truck ${l.truck}`].filter(Boolean).join(', ')}</td
        >
        <td class="fig text-right"
          >{cents(l.debit) ? figure(l.debit) : ''}{#if l.own && cents(l.own) > 0}<br /><span class="text-mute text-xs"
              >{figure(l.own)}</span
            >{/if}</td
        >
        <td class="fig text-right"
          >{cents(l.credit) ? figure(l.credit) : ''}{#if l.own && cents(l.own) < 0}<br /><span class="text-mute text-xs"
              >{figure(fromCents(-cents(l.own), l.own.currency))}</span
            >{/if}</td
        >
      </tr>
    {/each}
  </tbody>
</table>
