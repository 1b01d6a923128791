<script lang="ts">
  import { goto } from '$app/navigation';
  import { api, take, type Schemas } from '$lib/api/client';
  import { onChange } from '$lib/state/change.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import CancelForm from './CancelForm.svelte';
  import CombineForm from './CombineForm.svelte';
  import DivideForm from './DivideForm.svelte';
  import { equipmentLabels, lane } from '../labels';

  /** Number, customer and what the load is; what can be done with it as a whole. */
  interface Props {
    view: Schemas['LoadSheetView'];
    whole: boolean;
    run: (name: string, act: () => Promise<unknown>) => Promise<void>;
    busy: string;
  }
  let { view, whole, run, busy }: Props = $props();
  const l = $derived(view.sheet.load);
  let form = $state<'cancel' | 'divide' | 'combine' | null>(null);
  let tracking = $state('');
  onChange(
    () => l.id,
    () => {
      form = null;
      tracking = '';
    },
  );
  const toggle = (which: typeof form) => (form = form === which ? null : which);
  const done = (name: string) => {
    form = null;
    void run(name, async () => {});
  };

  const facts = $derived(
    [
      l.equipment ? equipmentLabels[l.equipment] : null,
      l.features?.length ? `with ${l.features.join(', ')}` : null,
      l.freight,
      l.weightLb ? `${l.weightLb.toLocaleString('en-US')} lb` : null,
      l.temperatureF !== null ? `${l.temperatureF} °F` : null,
      l.reference,
    ].filter(Boolean),
  );
  const mayEdit = $derived(
    !l.isMove &&
      session.may('loads.book') &&
      ['draft', 'booked', 'tendered', 'covered', 'rolling', 'delivered'].includes(l.state),
  );
  const mayCancel = $derived(
    session.may('loads.book') &&
      ['draft', 'booked', 'tendered', 'covered'].includes(l.state) &&
      !l.stops.some((s) => s.leftAt),
  );
  const mayRegroup = $derived(
    session.may('loads.book') && !l.isMove && ['draft', 'booked'].includes(l.state) && view.sheet.legs.length < 2,
  );
  const mayTrack = $derived(session.may('loads.roll') && l.state !== 'draft' && l.state !== 'cancelled' && !l.isMove);

  const track = () =>
    run('track', async () => {
      const link = await take(api.POST('/api/loads/{id}/track', { params: { path: { id: l.id } } }));
      await navigator.clipboard?.writeText(link.url).catch(() => {});
      tracking = link.url;
    });
  const revoke = () =>
    run('revoke', async () => {
      await take(api.POST('/api/loads/{id}/track/revoke', { params: { path: { id: l.id } } }));
      tracking = '';
      showDone(`Tracking links for ${l.number} revoked.`);
    });
</script>

<div class={whole ? 'flex items-start justify-between gap-4' : ''}>
  <div class="min-w-0">
    <div class="flex items-baseline gap-2 {whole ? '' : 'pr-8'}">
      <h2 class="min-w-0 {whole ? 'text-xl' : 'text-lg'}">
        <span class="fig font-bold">{l.number}</span>
        {l.customer ?? 'No customer yet'}
      </h2>
      {#if !whole}<a class="text-lark ml-auto shrink-0 text-sm underline-offset-2 hover:underline" href="/load/{l.id}"
          >Full page</a
        >{/if}
    </div>
    <p class="text-mute text-sm">
      <span>{l.state === 'cancelled' ? 'canceled' : l.state.replace('_', ' ')}</span>{facts
        .map((f) => ` · ${f}`)
        .join('')}{#if l.hazmat}<b class="text-marigold-word ml-1.5">hazmat</b>{/if}
    </p>
    <p class="text-mute text-sm">{lane(l)}{l.miles ? ` · ${l.miles.toLocaleString('en-US')} mi` : ''}</p>
  </div>
  <span class="-ml-2.5 flex shrink-0 flex-wrap gap-1 {whole ? 'justify-end' : ''}">
    {#if mayTrack}<Button small look="quiet" busy={busy === 'track'} onclick={track}>Tracking link</Button>{/if}
    {#if mayEdit}<Button small look="quiet" onclick={() => goto(`/book?edit=${l.id}`)}>Edit</Button>{/if}
    {#if session.may('loads.book') && l.state !== 'draft' && !l.isMove}<Button
        small
        look="quiet"
        onclick={() => goto(`/book?copy=${l.id}`)}>Copy</Button
      >{/if}
    {#if mayRegroup}<Button small look="quiet" onclick={() => toggle('divide')}>Divide</Button>
      {#if l.state === 'booked'}<Button small look="quiet" onclick={() => toggle('combine')}>Combine</Button>{/if}{/if}
    {#if mayCancel}<Button small look="quiet" onclick={() => toggle('cancel')}>Cancel load</Button>{/if}
  </span>
</div>
{#if tracking}
  <p class="mt-1 text-sm">
    {l.customer} can track {l.number} here (copied to the clipboard):
    <a class="text-lark font-bold break-all hover:underline" href={tracking} target="_blank" rel="noopener"
      >{tracking}</a
    >
    <button class="text-lark ml-2 hover:underline" onclick={revoke}>Revoke tracking links</button>
  </p>
{/if}
{#if form === 'cancel'}
  <CancelForm {view} ondone={() => done('cancel')} oncancel={() => (form = null)} />
{:else if form === 'divide'}
  <DivideForm {view} ondone={() => done('divide')} oncancel={() => (form = null)} />
{:else if form === 'combine'}
  <CombineForm {view} ondone={() => done('combine')} oncancel={() => (form = null)} />
{/if}
