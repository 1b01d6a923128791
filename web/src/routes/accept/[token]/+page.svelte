<script lang="ts">
  import { page } from '$app/state';
  import { api, Refused, take, type Schemas } from '$lib/api/client';
  import { said } from '$lib/money';
  import { chargeLabels, windowOf } from '$lib/loads/labels';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { formatLocal, localAt, zoneName } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Notice from '$ui/Notice.svelte';
  import DispatchFields from '$lib/loads/DispatchFields.svelte';
  import TextField from '$ui/TextField.svelte';

  /** A carrier's page for one load: accept or decline, then say who comes. */
  const token = $derived(page.params.token ?? '');
  let offer = $state<Schemas['AcceptView'] | null>(null);
  let problem = $state('');
  let name = $state('');
  let reason = $state('');
  let declining = $state(false);
  let changing = $state(false);
  let comes = $state({ driver: '', phone: '', truck: '', trailer: '' });
  const answer = new Attempt();
  const sending = new Attempt();
  const show = (o: Schemas['AcceptView']) => {
    offer = o;
    changing = false;
    comes = {
      driver: o.dispatch?.driver ?? '',
      phone: o.dispatch?.phone ?? '',
      truck: o.dispatch?.truck ?? '',
      trailer: o.dispatch?.trailer ?? '',
    };
  };
  const at = $derived({ params: { path: { token } } });
  $effect(() => {
    take(api.GET('/api/accept/{token}', at))
      .then(show)
      .catch((e) => (problem = e instanceof Refused ? e.message : 'This offer could not be loaded. Please call us.'));
  });
  const accept = () =>
    answer.run(async () => show(await take(api.POST('/api/accept/{token}', { ...at, body: { name } }))));
  const decline = () =>
    answer.run(async () =>
      show(await take(api.POST('/api/accept/{token}/decline', { ...at, body: { name, reason: reason || null } }))),
    );
  const dispatch = () =>
    sending.run(async () =>
      show(
        await take(
          api.POST('/api/accept/{token}/dispatch', { ...at, body: { ...comes, trailer: comes.trailer || null } }),
        ),
      ),
    );
  const here = Intl.DateTimeFormat().resolvedOptions().timeZone;
</script>

<svelte:head><title>Rate confirmation</title></svelte:head>
<main class="mx-auto max-w-xl p-6">
  {#if problem}<h1 class="mb-2 text-xl font-bold">Not found</h1>
    <p role="alert">{problem}</p>
  {:else if offer}
    <p class="text-mute text-sm">
      {offer.business}, <a class="text-lark hover:underline" href="tel:{offer.phone}">{offer.phone}</a>
    </p>
    <h1 class="mb-1 text-xl font-bold">
      Load {offer.loadNumber} for {offer.carrier}{offer.revision > 1 ? `, revision ${offer.revision}` : ''}
    </h1>
    <p class="text-mute">{[offer.equipment, offer.freight].filter(Boolean).join(' · ')}</p>
    <ol class="border-line my-5 border-y py-3">
      {#each offer.stops as stop, i (i)}
        <li class="flex gap-3 py-1.5">
          <svg width="14" height="18" class="shrink-0" aria-hidden="true"
            ><circle cx="7" cy="9" r="5" fill="none" stroke="var(--ink)" stroke-width="1.8" /></svg
          >
          <div>
            <p><b>{stop.place}</b>, {stop.town}</p>
            <p class="text-mute text-sm">{stop.kind}, {windowOf(stop)} {zoneName(stop.zone)} time</p>
          </div>
        </li>
      {/each}
    </ol>
    {#each offer.charges as c, i (i)}
      <p class="flex justify-between">
        <span>{chargeLabels[c.kind ?? 'other']}{c.description ? `, ${c.description}` : ''}</span><span class="fig"
          >{said(c.amount)}</span
        >
      </p>
    {/each}
    <p class="mb-5 flex justify-between text-lg">
      <span>{offer.charges.length ? 'Total' : 'Agreed rate'}, all inclusive</span><b class="fig">{said(offer.amount)}</b
      >
    </p>
    {#if offer.closed}<Notice title="Closed">{offer.closed}</Notice>
    {:else if offer.signedBy}
      <p class="text-moss-word font-bold" role="status">Accepted, signed {offer.signedBy}. Thank you.</p>
    {:else}
      {#if offer.acceptedBy}<p class="mb-3">{offer.acceptedBy} accepted this load by phone. Please sign it.</p>
      {:else if offer.expiresAt}<p class="text-marigold-word mb-3">
          Please answer by {formatLocal(localAt(offer.expiresAt, here))}.
        </p>{/if}
      <form
        class="flex flex-col gap-3"
        onsubmit={(e) => {
          e.preventDefault();
          void (declining ? decline() : accept());
        }}
      >
        <TextField label="Your name" bind:value={name} required maxlength={80} problem={answer.at('name')} />
        {#if declining}<TextField
            label="Reason"
            bind:value={reason}
            maxlength={200}
            problem={answer.at('reason')}
          />{/if}
        {#if answer.refused && !answer.at('name')}<p class="text-ember-word" role="alert">
            {answer.refused.message}
          </p>{/if}
        <div class="flex flex-wrap gap-2">
          {#if declining}
            <Button look="main" type="submit" busy={answer.busy} disabled={!name.trim()}
              >Decline load {offer.loadNumber}</Button
            >
            <Button onclick={() => (declining = false)}>Back</Button>
          {:else}
            <Button look="main" type="submit" busy={answer.busy} disabled={!name.trim()}
              >{offer.acceptedAt ? 'Sign' : 'Accept'} load {offer.loadNumber} for {said(offer.amount)}</Button
            >
            {#if !offer.acceptedAt}<Button onclick={() => (declining = true)}>Decline</Button>{/if}
          {/if}
        </div>
      </form>
    {/if}
    {#if offer.acceptedAt && !offer.closed}
      <section class="border-line mt-6 border-t pt-4" aria-label="Driver and truck">
        <h2 class="mb-2 font-bold">Driver and truck</h2>
        {#if offer.dispatch && !changing}
          <p>
            {offer.dispatch.driver}, {offer.dispatch.phone}, truck {offer.dispatch.truck}{offer.dispatch.trailer
              ? `, trailer ${offer.dispatch.trailer}`
              : ''}
          </p>
          <Button small look="quiet" class="-ml-2.5" onclick={() => (changing = true)}>Change</Button>
        {:else}
          <form
            class="flex flex-col gap-3"
            onsubmit={(e) => {
              e.preventDefault();
              void dispatch();
            }}
          >
            <div class="grid grid-cols-2 gap-3">
              <DispatchFields bind:value={comes} at={(f) => sending.at(f)} />
            </div>
            {#if sending.refused?.general}<p class="text-ember-word" role="alert">{sending.refused.general}</p>{/if}
            <div><Button look="main" type="submit" busy={sending.busy}>Send driver and truck</Button></div>
          </form>
        {/if}
      </section>
    {/if}
  {:else}<p class="text-mute" role="status">Loading …</p>{/if}
</main>
