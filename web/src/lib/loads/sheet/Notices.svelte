<script lang="ts">
  import { api, ifMatch, moneyKey, take, type Schemas } from '$lib/api/client';
  import ReturnToDispatch from '$lib/billing/ReturnToDispatch.svelte';
  import { said } from '$lib/money';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import Notice from '$ui/Notice.svelte';
  import TextField from '$ui/TextField.svelte';
  import { holdLabels } from '../labels';

  /** What is wrong with a load or keeps it from going on, and the bill once it is ready. */
  interface Props {
    view: Schemas['LoadSheetView'];
    run: (name: string, act: () => Promise<unknown>) => Promise<void>;
    busy: string;
    onchanged: () => Promise<void>;
  }
  let { view, run, busy, onchanged }: Props = $props();
  const l = $derived(view.sheet.load);
  let reason = $state('');

  const override = (kind: Schemas['HoldKind']) =>
    run('override', async () => {
      await take(
        api.POST('/api/loads/{id}/override-hold', {
          params: { path: { id: l.id } },
          body: { kind, why: reason },
          headers: ifMatch(l.version),
        }),
      );
      showDone(`Hold on ${l.number} overridden.`);
      reason = '';
    });
  const restore = () =>
    run('restore', async () => {
      const done = await take(api.POST('/api/loads/{id}/restore', { params: { path: { id: l.id } } }));
      showDone(`${done.summary}.`);
    });
  const bill = () =>
    run('bill', async () => {
      const invoice = await take(
        api.POST('/api/invoices', { body: { loadIds: [l.id], termsDays: null, mailTo: null }, headers: moneyKey() }),
      );
      showDone(`Invoice ${invoice.number} for ${said(invoice.total)} sent to ${invoice.mailedTo}.`, () =>
        take(api.POST('/api/invoices/{id}/void', { params: { path: { id: invoice.id } }, headers: moneyKey() })),
      );
    });
</script>

<div class="flex flex-col gap-2 px-5 pb-3 empty:hidden">
  {#if view.trouble.length > 0}
    <Notice urgency={view.urgency === 'now' ? 'now' : 'soon'} title={view.status}>
      {#each view.trouble as line (line)}<p>{line}</p>{/each}
    </Notice>
  {/if}
  {#if l.state === 'delivered' && view.missing.length > 0}
    <Notice urgency="soon" title="Not ready to bill"
      >{#each view.missing as line (line)}<p>{line}</p>{/each}</Notice
    >
  {/if}
  {#each view.sheet.holds.filter((h) => !h.releasedAt) as hold (hold.id)}
    <Notice urgency="soon" title="On hold: {holdLabels[hold.kind].toLowerCase()}">
      <p>{hold.reason}</p>
      {#if hold.kind === 'billing'}
        {#if session.may('loads.roll')}<div class="mt-2">
            <ReturnToDispatch loadId={l.id} right {onchanged} />
          </div>{/if}
      {:else if session.may('holds.override')}
        <form
          class="mt-2 flex items-end gap-2"
          onsubmit={(e) => {
            e.preventDefault();
            if (reason.trim()) void override(hold.kind);
          }}
        >
          <TextField class="flex-1" label="Override reason" bind:value={reason} maxlength={400} />
          <Button type="submit" busy={busy === 'override'} disabled={!reason.trim()}>Override hold</Button>
        </form>
      {:else}<p>The owner can override it.</p>{/if}
    </Notice>
  {/each}
  {#if l.state === 'cancelled'}
    <Notice urgency="soon" title="Canceled">
      <p>{view.sheet.cancelledWhy}</p>
      {#if view.sheet.replacedBy?.length}
        <p class="mt-1">Now {@render links(view.sheet.replacedBy)}</p>
        {#if session.may('loads.book')}<Button small busy={busy === 'restore'} onclick={restore}>Restore load</Button
          >{/if}
      {/if}
    </Notice>
  {:else if view.sheet.replaces?.length}
    <p class="text-mute px-5 text-sm">Made from {@render links(view.sheet.replaces)}</p>
  {/if}
  {#if l.state === 'delivered' && !l.isMove && view.missing.length === 0 && session.may('billing.invoice')}
    <div>
      <Button look="main" busy={busy === 'bill'} onclick={bill}>Bill {said(l.revenue)} to {l.customer}</Button>
    </div>
  {/if}
</div>

{#snippet links(loads: Schemas['LoadLink'][])}
  {#each loads as load, i (load.id)}{i ? ', ' : ''}<a
      class="fig text-lark font-bold hover:underline"
      href="/load/{load.id}">{load.number}</a
    >{/each}
{/snippet}
