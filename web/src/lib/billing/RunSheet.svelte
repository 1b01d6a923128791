<script lang="ts">
  import { api, moneyKey, take, type Schemas } from '$lib/api/client';
  import { figure, sums } from '$lib/money';
  import { onChange } from '$lib/state/change.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import Status from '$ui/Status.svelte';

  /** A billing run: its progress, and what failed. It continues when the page is closed. */
  let { id, onload }: { id: number; onload: (loadId: number) => void } = $props();
  let run = $state.raw<Schemas['RunView'] | null>(null);
  const load = () =>
    take(api.GET('/api/billing-runs/{id}', { params: { path: { id } } }))
      .then((r) => (run = r))
      .catch(showError);
  onChange(
    () => id,
    () => {
      void load();
      return live.follow(load, ['billing_runs']);
    },
  );
  // Events report each step; a page that is reconnecting polls.
  $effect(() => {
    if (!run || run.done === run.parts) return;
    const timer = setTimeout(load, 1500);
    return () => clearTimeout(timer);
  });
  const made = $derived((run?.all ?? []).filter((p) => p.invoiceId));
  const failed = $derived((run?.all ?? []).filter((p) => p.failed));
  async function undo() {
    let n = 0;
    for (const p of made)
      try {
        await take(
          api.POST('/api/invoices/{id}/void', { params: { path: { id: p.invoiceId! } }, headers: moneyKey() }),
        );
        n++;
      } catch (e) {
        showError(e);
      }
    showDone(`${n} invoices voided.`);
    await load();
  }
</script>

{#if !run}<p class="text-mute p-5" role="status">Loading …</p>
{:else}
  <div class="p-5">
    <h2 class="pr-8 text-lg font-bold">
      {run.done < run.parts ? 'Billing …' : 'Billed'}
      <span class="fig font-normal">{run.done} of {run.parts}</span>
    </h2>
    <div
      class="bg-faint mt-2 h-2 overflow-hidden rounded"
      role="progressbar"
      aria-valuenow={run.done}
      aria-valuemin={0}
      aria-valuemax={run.parts}
      aria-label="Invoices created"
    >
      <div class="bg-lark h-full" style:width="{(100 * run.done) / run.parts}%"></div>
    </div>
    <p class="text-mute mt-2 text-sm">
      {made.length} invoices for <span class="fig">{sums(made.map((p) => p.total))}</span>{run.done < run.parts
        ? '; you can leave this page'
        : ''}
    </p>
    {#if failed.length}
      <h3 class="mt-4 mb-1 text-sm font-bold"><Status urgency="now">{failed.length} failed</Status></h3>
      {#each failed as p (p.seq)}
        <p class="border-line border-b py-1.5 text-sm">
          <b>{p.customer}</b>
          {#each p.loads as number, n (number)}<button
              class="text-lark fig ml-1 hover:underline"
              onclick={() => onload(p.loadIds[n])}>{number}</button
            >{/each}
          <span class="block">{p.failed}</span>
        </p>
      {/each}
    {/if}
    {#if made.length}
      <h3 class="text-mute mt-4 mb-1 text-sm font-bold">Created</h3>
      <ul>
        {#each made as p (p.seq)}
          <li class="border-line flex items-baseline gap-3 border-b py-1 text-sm">
            <a class="text-lark fig font-bold hover:underline" href="/bill?invoice={p.invoiceId}">{p.invoice}</a>
            <span class="min-w-0 flex-1 truncate">{p.customer}, {p.loads.join(', ')}</span>
            <span class="fig">{figure(p.total)}</span>
          </li>
        {/each}
      </ul>
      {#if run.done === run.parts}<Button class="mt-4" small look="quiet" onclick={undo}>Void all {made.length}</Button
        >{/if}
    {/if}
  </div>
{/if}
