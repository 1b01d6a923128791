<script lang="ts">
  import { goto } from '$app/navigation';
  import { api, moneyKey, take, type Schemas } from '$lib/api/client';
  import { figure, said } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { formatLocal } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import { untrack } from 'svelte';
  import { lane } from '../labels';

  /** Combines a load with other open loads of its customer that need the same trailer. */
  interface Props {
    view: Schemas['LoadSheetView'];
    ondone: () => void;
    oncancel: () => void;
  }
  let { view, ondone, oncancel }: Props = $props();
  const l = $derived(view.sheet.load);
  let others = $state<Schemas['LoadRow'][] | null>(null);
  let chosen = $state<number[]>([]);
  const attempt = new Attempt();
  const mine = untrack(() => l);
  take(
    api.GET('/api/loads', {
      params: { query: { view: 'open', limit: 500, customerId: mine.customerId ?? undefined } },
    }),
  ).then(
    (answer) =>
      (others = answer.rows
        .map((r) => r.load)
        .filter(
          (o) =>
            o.id !== mine.id &&
            o.state === 'booked' &&
            o.customerId === mine.customerId &&
            o.billToId === mine.billToId &&
            o.equipment === mine.equipment,
        )),
    showError,
  );
  const combine = () =>
    attempt.run(async () => {
      const done = await take(
        api.POST('/api/loads/combine', {
          headers: moneyKey(),
          body: { loadIds: [l.id, ...chosen] },
        }),
      );
      const old = l.id;
      showDone(`${done.summary}, ${said(done.after)}.`, () =>
        take(api.POST('/api/loads/{id}/restore', { params: { path: { id: old } } })),
      );
      ondone();
      await goto(`/load/${done.loads[0].id}`);
    });
</script>

<form
  class="border-line my-3 rounded border p-3"
  aria-label="Combine {l.number}"
  onsubmit={(e) => {
    e.preventDefault();
    void combine();
  }}
>
  <p class="text-mute text-sm">
    Open loads of {l.customer} with the same equipment. The new load has the stops, freight, charges and numbers of all of
    them.
  </p>
  <ul class="mt-1">
    {#each others ?? [] as o (o.id)}
      <li>
        <label class="flex items-center gap-2 py-1 text-sm"
          ><input type="checkbox" value={o.id} bind:group={chosen} />
          <b class="fig">{o.number}</b>
          <span class="min-w-0 flex-1 truncate"
            >{lane(o)}
            <span class="text-mute">{o.stops[0]?.from ? formatLocal(o.stops[0].from) : ''} · {o.freight}</span></span
          >
          <span class="fig">{figure(o.revenue)}</span></label
        >
      </li>
    {:else}
      <li class="text-mute py-1 text-sm">
        {others ? 'No other open load of this customer needs the same equipment.' : 'Loading …'}
      </li>
    {/each}
  </ul>
  {#each attempt.refused?.problems ?? [] as p (p.message)}<p class="text-ember-word mt-1 text-sm" role="alert">
      {p.message}
    </p>{/each}
  <div class="mt-2 flex gap-2">
    <Button small look="main" type="submit" busy={attempt.busy} disabled={!chosen.length}
      >{chosen.length ? `Combine ${chosen.length + 1} loads` : 'Combine'}</Button
    >
    <Button small look="quiet" onclick={oncancel}>Cancel</Button>
  </div>
</form>
