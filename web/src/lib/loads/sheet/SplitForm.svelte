<script lang="ts">
  import { api, ifMatch, take, type Schemas } from '$lib/api/client';
  import { whereOf, type Where } from '$lib/companies/find';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { localAt, type Local } from '$lib/time/when';
  import Choice from '$ui/Choice.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import { lane } from '../labels';
  import TransferFields from './TransferFields.svelte';

  /** Splits a leg at a transfer, or moves the transfer. */
  interface Props {
    view: Schemas['LoadSheetView'];
    leg?: Schemas['LegView'];
    transfer?: Schemas['TransferRow'];
    ondone: () => void;
    oncancel: () => void;
  }
  let { view, leg, transfer, ondone, oncancel }: Props = $props();
  const l = $derived(view.sheet.load);
  const attempt = new Attempt();
  // The form opens with what the transfer is then.
  // svelte-ignore state_referenced_locally
  let where = $state<Where | null>(
    transfer ? whereOf({ ...transfer, id: transfer.placeId, name: transfer.place }) : null,
  );
  // svelte-ignore state_referenced_locally
  let at = $state<Local | null>(transfer?.plannedAt ? localAt(transfer.plannedAt, transfer.zone) : null);
  // svelte-ignore state_referenced_locally
  let method = $state<Schemas['TransferMethod']>(transfer?.method ?? 'drop');
  // svelte-ignore state_referenced_locally
  let after = $state(transfer ? String(transfer.afterStops) : '');
  /** A load whose driver meets ours there. */
  let swapWith = $state('');
  let others = $state<Schemas['LoadRow'][]>([]);
  const driver = $derived(view.sheet.legs.find((g) => g.id === leg?.legId)?.driverId);
  $effect(() => {
    if (method === 'swap' && driver && others.length === 0)
      void take(api.GET('/api/loads', { params: { query: { view: 'moving', limit: 500 } } })).then(
        (page) =>
          (others = page.rows.map((r) => r.load).filter((o) => o.driverId && o.driverId !== driver && o.id !== l.id)),
        showError,
      );
  });

  const send = () =>
    attempt.run(async () => {
      const body = {
        placeId: where?.placeId ?? null,
        townId: where?.townId ?? null,
        at,
        method,
        legId: leg?.legId,
        afterStops: Number(after) || undefined,
        swapWithLoadId: (method === 'swap' && Number(swapWith)) || undefined,
      };
      const done = transfer
        ? await take(
            api.PUT('/api/loads/{id}/transfers/{transferId}', {
              params: { path: { id: l.id, transferId: transfer.id } },
              body,
              headers: ifMatch(l.version),
            }),
          )
        : await take(
            api.POST('/api/loads/{id}/split', {
              params: { path: { id: l.id } },
              body,
              headers: ifMatch(l.version),
            }),
          );
      showDone(
        `${done.summary}.`,
        transfer || body.swapWithLoadId
          ? undefined
          : () =>
              take(
                api.POST('/api/loads/{id}/transfers/{transferId}/join', {
                  params: { path: { id: l.id, transferId: done.transferId } },
                }),
              ),
      );
      ondone();
    });
</script>

<InnerForm {attempt} action={transfer ? 'Change transfer' : `Split ${l.number}`} onact={send} {oncancel}>
  <div class="grid grid-cols-2 gap-3" role="group" aria-label={transfer ? 'Change transfer' : `Split ${l.number}`}>
    <TransferFields
      bind:where
      bind:at
      bind:method
      bind:swapWith
      others={driver && !transfer
        ? others.map((o) => ({ value: String(o.id), label: `${o.who}, ${o.number} ${lane(o)}` }))
        : null}
      like={l.stops[0].until ?? l.stops[0].from}
      problem={(field) => attempt.at(field)}
    />
    {#if l.stops.length > 2}
      <Choice
        class="col-span-2"
        label="Between which stops"
        bind:value={after}
        problem={attempt.at('afterStops')}
        options={[
          { value: '', label: 'Where it adds the fewest miles' },
          ...l.stops.slice(0, -1).map((s, i) => ({
            value: String(i + 1),
            label: `After stop ${i + 1}, ${s.town}, before ${l.stops[i + 1].town}`,
          })),
        ]}
      />
    {/if}
  </div>
  {#if !transfer}
    <p class="text-mute text-sm">
      {swapWith && method === 'swap'
        ? 'Both loads are split there, and each driver continues with the other’s trailer.'
        : 'The driver assigned now keeps the part up to the transfer point. The rest is assigned like any load.'}
    </p>
  {/if}
</InnerForm>
