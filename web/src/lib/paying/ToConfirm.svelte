<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { latest } from '$lib/api/latest';
  import { figure } from '$lib/money';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDate } from '$lib/time/when';
  import Button from '$ui/Button.svelte';

  /** Money that one person paid out alone: paid expenses and advances, which another person confirms. */
  let rows = $state<Schemas['SolePaymentRow'][]>([]);
  let busy = $state('');
  const load = latest(
    () => take(api.GET('/api/sole-payments')),
    (answer) => (rows = answer),
    showError,
  );
  $effect(() => {
    void load();
    return live.follow(load, ['bills', 'pay']);
  });
  async function confirm(row: Schemas['SolePaymentRow']) {
    busy = `${row.kind} ${row.id}`;
    const on = { params: { path: { id: row.id } } };
    try {
      rows = await take(
        row.kind === 'expense' ? api.POST('/api/bills/{id}/confirm', on) : api.POST('/api/advances/{id}/confirm', on),
      );
      showDone(`Payment to ${row.payee} confirmed.`);
    } catch (e) {
      showError(e);
    } finally {
      busy = '';
    }
  }
</script>

{#if rows.length > 0}
  <section class="border-line border-b px-5 pt-3 pb-3" aria-label="Payments to confirm">
    <h2 class="mb-1 font-bold">
      Payments to confirm <span class="text-mute font-normal"
        >paid out by one person; another confirms that the money was due</span
      >
    </h2>
    <ul>
      {#each rows as row (`${row.kind} ${row.id}`)}
        <li class="flex min-h-9 items-center gap-3 text-sm">
          <span class="text-mute w-16 shrink-0">{formatDate(row.on)}</span>
          <span class="min-w-0 flex-1 truncate"
            ><b>{row.payee}</b>
            {row.kind === 'expense' ? 'expense' : 'advance'}{row.what ? `, ${row.what}` : ''}, entered by {row.enteredBy}</span
          >
          <span class="fig w-24 shrink-0 text-right">{figure(row.amount)}</span>
          <span class="flex w-32 shrink-0 justify-end">
            {#if row.mine}<span class="text-mute">you entered it</span>
            {:else if session.may('paying.approve')}<Button
                small
                busy={busy === `${row.kind} ${row.id}`}
                onclick={() => void confirm(row)}>Confirm</Button
              >{/if}
          </span>
        </li>
      {/each}
    </ul>
  </section>
{/if}
