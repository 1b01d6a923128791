<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { localAt, formatDay, formatLocal } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';

  /** Months: closed through one, reopened from one on with a reason. */
  let view = $state.raw<Schemas['PeriodsView'] | null>(null);
  let opening = $state<string | null>(null);
  let why = $state('');
  const attempt = new Attempt();
  const load = () =>
    take(api.GET('/api/ledger/periods'))
      .then((v) => (view = v))
      .catch(showError);
  $effect(() => {
    void load();
    return live.follow(load, ['ledger']);
  });
  /** The first of each month from the oldest entry to now, newest first. */
  const months = $derived.by(() => {
    const list: string[] = [];
    let [y, m] = session.today.split('-').map(Number);
    const first = (view?.firstDay ?? session.today).slice(0, 7);
    for (; list.length < 240; m === 1 ? (y--, (m = 12)) : m--) {
      const month = `${y}-${String(m).padStart(2, '0')}`;
      if (month < first) break;
      list.push(`${month}-01`);
    }
    return list;
  });
  const standing = (month: string) => view?.closings.find((c) => c.month === month && !c.reopenedAt);
  const history = (month: string) => view?.closings.filter((c) => c.month === month && c.reopenedAt) ?? [];
  const name = (month: string) =>
    new Date(`${month}T12:00:00Z`).toLocaleString('en-US', { month: 'long', year: 'numeric', timeZone: 'UTC' });
  const newest = $derived(months.find((m) => standing(m)));
  const close = (month: string) =>
    attempt.run(async () => {
      await take(api.POST('/api/ledger/periods/close', { body: { month } }));
      showDone(`The books are closed through ${name(month)}.`);
      await load();
    });
  const open = (month: string) =>
    attempt.run(async () => {
      await take(api.POST('/api/ledger/periods/reopen', { body: { month, why } }));
      showDone(`${name(month)} reopened.`);
      opening = null;
      why = '';
      await load();
    });
</script>

<p class="text-mute mb-3 max-w-3xl text-sm">
  Nothing can be posted to a closed month. Closing a month also closes every month before it; reopening one reopens
  every month after it.
</p>
{#if attempt.refused && !opening}<p class="text-ember-word mb-2 text-sm" role="alert">{attempt.refused.message}</p>{/if}
<ul class="max-w-3xl">
  {#each months as month (month)}
    {@const closed = standing(month)}
    <li class="border-line border-b py-1.5">
      <div class="flex min-h-7 items-center gap-4">
        <b class="w-44">{name(month)}</b>
        <span class="text-mute min-w-0 flex-1 text-sm">
          {closed
            ? `closed ${formatLocal(localAt(closed.closedAt, session.zone))} by ${closed.closedBy ?? 'the system'}`
            : 'open'}
        </span>
        {#if session.may('ledger.close')}
          {#if closed}
            <Button small look="quiet" onclick={() => (opening = opening === month ? null : month)}>Reopen</Button>
          {:else if month < session.today.slice(0, 7) && (!newest || month > newest)}
            <Button small look="quiet" busy={attempt.busy} onclick={() => close(month)}
              >Close through {name(month)}</Button
            >
          {/if}
        {/if}
      </div>
      {#each history(month) as c (c.closedAt)}
        <p class="text-mute pl-48 text-sm">
          reopened {formatDay(localAt(c.reopenedAt!, session.zone).slice(0, 10))} by {c.reopenedBy}: {c.reopenedWhy}
        </p>
      {/each}
      {#if opening === month}
        <form
          class="flex items-end gap-3 py-2 pl-48"
          onsubmit={(e) => {
            e.preventDefault();
            void open(month);
          }}
        >
          <TextField
            class="flex-1"
            label="Reason"
            required
            bind:value={why}
            maxlength={400}
            problem={attempt.at('why')}
          />
          <Button small look="main" type="submit" busy={attempt.busy}>Reopen {name(month)}</Button>
        </form>
      {/if}
    </li>
  {/each}
</ul>
