<script lang="ts">
  import { api, ifMatch, take, type Schemas } from '$lib/api/client';
  import { said } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import { untrack } from 'svelte';
  import { byDelivery, byFreight, byQuantity, divideRequest, left, unitOf, type Part } from '../divide';

  /** Divides a load into several: by delivery, by freight line, or by quantity. */
  interface Props {
    view: Schemas['LoadSheetView'];
    ondone: () => void;
    oncancel: () => void;
  }
  let { view, ondone, oncancel }: Props = $props();
  const l = $derived(view.sheet.load);
  const freight = $derived(view.sheet.freight);
  const ways = { delivery: byDelivery, freight: byFreight, quantity: byQuantity };
  const offered = $derived(
    [
      {
        value: 'delivery',
        label: 'one load for each delivery',
        is: l.stops.filter((s) => s.kind === 'delivery').length > 1,
      },
      { value: 'freight', label: 'one load for each freight line', is: freight.length > 1 },
      { value: 'quantity', label: 'by quantity', is: true },
    ].filter((o) => o.is),
  );
  let way = $state(untrack(() => offered[0].value));
  const made = (how: string) => ways[how as keyof typeof ways](l.stops, freight);
  let parts = $state<Part[]>(untrack(() => made(way)));
  const attempt = new Attempt();
  const add = () => (parts = [...parts, { stops: l.stops.map(() => true), amounts: freight.map(() => '0') }]);

  const divide = () =>
    attempt.run(async () => {
      const done = await take(
        api.POST('/api/loads/{id}/divide', {
          params: { path: { id: l.id } },
          headers: ifMatch(l.version),
          body: divideRequest(parts),
        }),
      );
      const charges =
        done.before && done.after && done.before.amount !== done.after.amount
          ? ` Charges were ${said(done.before)} and are ${said(done.after)}.`
          : '';
      showDone(`${done.summary}.${charges}`, () =>
        take(api.POST('/api/loads/{id}/restore', { params: { path: { id: l.id } } })),
      );
      ondone();
    });
</script>

<form
  class="border-line my-3 rounded border p-3"
  aria-label="Divide {l.number}"
  onsubmit={(e) => {
    e.preventDefault();
    void divide();
  }}
>
  <Choice
    class="w-72"
    label="Divide load {l.number}"
    bind:value={() => way, (v) => ((way = v), (parts = made(v)))}
    options={offered}
  />
  <table class="mt-2 text-sm">
    <thead class="text-mute">
      <tr>
        <th></th>
        {#each parts as _, p (p)}<th class="w-24 px-1 text-left font-normal"
            >New load {p + 1}
            {#if parts.length > 2}<button
                type="button"
                class="text-lark hover:underline"
                aria-label="Remove new load {p + 1}"
                onclick={() => (parts = parts.filter((x) => x !== parts[p]))}>Remove</button
              >{/if}</th
          >{/each}
        <th></th>
      </tr>
    </thead>
    <tbody>
      {#each l.stops as s, i (s.id)}
        <tr>
          <th class="py-0.5 pr-4 text-left font-normal">{s.kind} {s.place ?? ''}, {s.town ?? ''}</th>
          {#each parts as part, p (p)}<td class="px-1"
              ><input
                type="checkbox"
                bind:checked={part.stops[i]}
                aria-label="{s.kind} {s.place ?? i + 1} on new load {p + 1}"
              /></td
            >{/each}
          <td></td>
        </tr>
      {/each}
      {#each freight as line, i (i)}
        {@const unit = unitOf(line)}
        {@const open = left(line, parts, i)}
        <tr>
          <th class="py-0.5 pr-4 text-left font-normal"
            >{line.description}{#if unit && unit.total !== 1}, <span class="fig"
                >{unit.total.toLocaleString('en-US')}</span
              >
              {unit.unit}{/if}</th
          >
          {#each parts as part, p (p)}<td class="px-1"
              ><input
                class="border-line bg-panel fig h-7 w-20 rounded border px-1.5 text-right"
                inputmode="decimal"
                bind:value={part.amounts[i]}
                aria-label="{line.description} on new load {p + 1}"
              /></td
            >{/each}
          <td class="pl-2 {open === 0 ? 'text-mute' : 'text-marigold-word'}"
            >{open === 0
              ? 'all'
              : open > 0
                ? `${open.toLocaleString('en-US')} more to enter`
                : `${(-open).toLocaleString('en-US')} too many`}</td
          >
        </tr>
      {/each}
    </tbody>
  </table>
  <p class="text-mute mt-1 text-sm">Flat charges are shared by weight. Each new load keeps the customer’s numbers.</p>
  {#each attempt.refused?.problems ?? [] as p (p.message)}<p class="text-ember-word mt-1 text-sm" role="alert">
      {p.message}
    </p>{/each}
  <div class="mt-2 flex gap-2">
    <Button small look="main" type="submit" busy={attempt.busy}>Divide into {parts.length} loads</Button>
    <Button small onclick={add}>Add a load</Button>
    <Button small look="quiet" onclick={oncancel}>Cancel</Button>
  </div>
</form>
