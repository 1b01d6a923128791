<script lang="ts">
  import { api, ifMatch, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { localAt, formatLocal } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import TextField from '$ui/TextField.svelte';
  import DispatchFields from '../DispatchFields.svelte';

  /** A carrier's leg: its answer to the tender, and who comes for the freight. */
  interface Props {
    load: Schemas['LoadRow'];
    /** The leg's own state. */
    state: Schemas['LoadState'];
    g: Schemas['LegRow'];
    onchanged: () => Promise<void>;
  }
  let { load, state: own, g, onchanged }: Props = $props();
  let form = $state<'accept' | 'decline' | 'dispatch' | null>(null);
  let name = $state('');
  let reason = $state('');
  let comes = $state({ driver: '', phone: '', truck: '', trailer: '' });
  const attempt = new Attempt();
  const when = (at: string) => formatLocal(localAt(at, session.zone));
  const t = $derived(g.tender);
  function open(what: typeof form) {
    form = form === what ? null : what;
    attempt.refused = null;
    name = reason = '';
    comes = {
      driver: g.dispatch?.driver ?? '',
      phone: g.dispatch?.phone ?? '',
      truck: g.dispatch?.truck ?? '',
      trailer: g.dispatch?.trailer ?? '',
    };
  }
  const send = (act: () => Promise<Schemas['TenderAnswer']>) =>
    attempt.run(async () => {
      showDone(`${(await act()).summary}.`);
      form = null;
      await onchanged();
    });
  const on = $derived({ params: { path: { id: load.id }, query: { leg: g.id } }, headers: ifMatch(load.version) });
  const accept = () => send(() => take(api.POST('/api/loads/{id}/tender/accept', { ...on, body: { name } })));
  const decline = () =>
    send(() =>
      take(api.POST('/api/loads/{id}/tender/decline', { ...on, body: { name: name || null, reason: reason || null } })),
    );
  const dispatch = () =>
    send(() =>
      take(
        api.PUT('/api/loads/{id}/dispatch', {
          ...on,
          body: { ...comes, trailer: comes.trailer || null },
        }),
      ),
    );
  const mayDispatch = $derived(
    session.may('loads.roll') && !g.handedOverAt && (own === 'covered' || own === 'rolling') && form !== 'dispatch',
  );
</script>

<p>
  <b>{g.carrier}</b>
  {#if g.carrierPhone}<a class="text-lark text-sm hover:underline" href="tel:{g.carrierPhone}">{g.carrierPhone}</a>{/if}
</p>
{#if t}
  {#if !t.acceptedAt}
    <p class="text-marigold-word text-sm">
      tendered {when(t.sentAt)}{t.expiresAt ? `, answer by ${when(t.expiresAt)}` : ', not answered yet'}
    </p>
    {#if session.may('loads.cover')}
      <span class="-ml-2.5 flex gap-1">
        <Button small look="quiet" onclick={() => open('accept')}>Accepted by phone</Button>
        <Button small look="quiet" onclick={() => open('decline')}>Declined</Button>
      </span>
    {/if}
  {:else}
    <p class="text-mute text-sm">
      accepted {when(t.acceptedAt)}{t.acceptedVia === 'phone' ? ' by phone' : ''}, {t.acceptedBy}{t.signedAt &&
      t.acceptedVia === 'phone'
        ? `; signed ${t.signedBy}`
        : ''}{t.revision > 1 ? `; rate confirmation revision ${t.revision}` : ''}
      {#if !t.signedAt}<b class="text-marigold-word">rate confirmation not signed yet</b>{/if}
    </p>
  {/if}
{/if}
{#if g.dispatch}
  <p class="text-sm">
    {g.dispatch.driver},
    <a class="text-lark underline" href="tel:{g.dispatch.phone}">{g.dispatch.phone}</a>, truck {g.dispatch.truck}{g
      .dispatch.trailer
      ? `, trailer ${g.dispatch.trailer}`
      : ''}
    {#if mayDispatch}<button class="text-lark ml-1 hover:underline" onclick={() => open('dispatch')}>Edit</button>{/if}
  </p>
{:else if mayDispatch && t?.acceptedAt}
  <p class="text-sm">
    <span class="text-marigold-word">driver and truck not known yet</span>
    <button class="text-lark ml-1 hover:underline" onclick={() => open('dispatch')}>Enter driver and truck</button>
  </p>
{/if}
{#if form === 'accept'}
  <InnerForm {attempt} action="Record acceptance" onact={accept} oncancel={() => open(null)}>
    <TextField label="Accepted by" required bind:value={name} maxlength={80} problem={attempt.at('name')} />
  </InnerForm>
{:else if form === 'decline'}
  <InnerForm {attempt} action="Record decline" onact={decline} oncancel={() => open(null)}>
    <div class="grid grid-cols-2 gap-3">
      <TextField label="Declined by" bind:value={name} maxlength={80} problem={attempt.at('name')} />
      <TextField label="Reason" bind:value={reason} maxlength={200} problem={attempt.at('reason')} />
    </div>
  </InnerForm>
{:else if form === 'dispatch'}
  <InnerForm {attempt} action="Save driver and truck" onact={dispatch} oncancel={() => open(null)}>
    <div class="grid grid-cols-2 gap-3">
      <DispatchFields bind:value={comes} at={(f) => attempt.at(f)} />
    </div>
    {#if attempt.at('carrierId')}<p class="text-ember-word text-sm" role="alert">{attempt.at('carrierId')}</p>{/if}
  </InnerForm>
{/if}
