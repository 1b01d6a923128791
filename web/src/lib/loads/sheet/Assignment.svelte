<script lang="ts">
  import { api, ifMatch, take, type Schemas } from '$lib/api/client';
  import { figure } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { localAt, formatLocal } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Part from '$ui/Part.svelte';
  import CoverPanel from '../CoverPanel.svelte';
  import CarrierLeg from './CarrierLeg.svelte';
  import HandoverForm from './HandoverForm.svelte';
  import { equipmentLabels } from '../labels';

  /** Assignments by leg, and handovers. */
  interface Props {
    view: Schemas['LoadSheetView'];
    takeBack: () => Promise<void>;
    busy: boolean;
    onchanged: () => Promise<void>;
  }
  let { view, takeBack, busy, onchanged }: Props = $props();
  const l = $derived(view.sheet.load);
  const leg = $derived(view.sheet.legs.at(-1));
  /** Our truck has started, or the carrier has freight: the load can change trucks. */
  const underWay = $derived(
    leg?.carrierId
      ? ['covered', 'rolling'].includes(l.state) && l.stops.some((s) => s.kind === 'pickup' && s.leftAt)
      : l.state === 'rolling' || (l.state === 'covered' && l.stops.some((s) => s.arrivedAt)),
  );
  let handing = $state(false);
  /** Reassigning, with its effects shown. */
  let giving = $state(false);
  const attempt = new Attempt();
  const handBack = () =>
    attempt.run(async () => {
      const done = await take(
        api.POST('/api/loads/{id}/handover/undo', { params: { path: { id: l.id } }, headers: ifMatch(l.version) }),
      );
      showDone(`${done.summary}.`);
      await onchanged();
    });
</script>

{#if leg && l.who}
  <Part title="Assignment">
    {#snippet aside()}
      {#if (l.state === 'tendered' || (l.state === 'covered' && !l.stops.some((s) => s.arrivedAt))) && session.may('loads.cover')}<Button
          small
          look="quiet"
          {busy}
          onclick={takeBack}>{l.state === 'tendered' ? 'Withdraw tender' : `Unassign ${l.who}`}</Button
        ><Button small look="quiet" onclick={() => (giving = !giving)}
          >{l.state === 'tendered' ? 'Tender to another' : 'Reassign'}</Button
        >{:else if underWay && session.may('loads.cover')}<Button
          small
          look="quiet"
          onclick={() => (handing = !handing)}>{leg.carrierId ? 'Replace carrier' : 'Change driver or truck'}</Button
        >{/if}
    {/snippet}
    {#each view.sheet.legs as g (g.id)}
      {#if g.driverId}
        <p class="flex justify-between gap-2">
          <span
            ><b>{g.driver}</b>
            <span class="text-mute text-sm">truck {g.truck} · {equipmentLabels[l.equipment ?? '']} {g.trailer}</span
            ></span
          ><span class="text-mute shrink-0 text-sm">trip {g.trip}</span>
        </p>
        <p class="text-mute text-sm">
          {g.driverPhone}{g.acceptedAt && !g.handedOverAt
            ? ` · accepted the trip ${formatLocal(localAt(g.acceptedAt, session.zone))}`
            : ''}
        </p>
      {:else}
        <CarrierLeg load={l} {g} {onchanged} />
      {/if}
      {#if g.handedOverAt}
        <p class="text-mute mb-2 text-sm">
          handed over in {g.handoverTown}
          {formatLocal(localAt(g.handedOverAt, session.zone))}, after {g.miles} mi{g.carrierId && g.agreed
            ? `, paid ${figure(g.agreed)}`
            : ''}
          {#if g === view.sheet.legs.at(-2) && session.may('loads.cover')}<button
              class="text-lark ml-1 hover:underline"
              onclick={() => void handBack()}>undo handover</button
            >{/if}
        </p>
      {/if}
    {/each}
    {#if !handing && attempt.refused}<p class="text-ember-word text-sm" role="alert">{attempt.refused.message}</p>{/if}
    {#if handing && leg}
      <HandoverForm
        {view}
        {leg}
        ondone={() => {
          handing = false;
          void onchanged();
        }}
        oncancel={() => (handing = false)}
      />
    {/if}
  </Part>
{/if}
{#if giving && (l.state === 'covered' || l.state === 'tendered')}
  <CoverPanel
    {view}
    oncovered={() => {
      giving = false;
      void onchanged();
    }}
  />
{/if}
