<script lang="ts">
  import { page } from '$app/state';
  import { api, Refused, take, type Schemas } from '$lib/api/client';
  import { said } from '$lib/money';
  import { windowOf } from '$lib/loads/labels';
  import { zoneName } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Notice from '$ui/Notice.svelte';
  import TextField from '$ui/TextField.svelte';

  const token = $derived(page.params.token ?? '');
  let offer = $state<Schemas['AcceptView'] | null>(null);
  let problem = $state('');
  let name = $state('');
  let refused = $state<Refused | null>(null);
  let busy = $state(false);
  $effect(() => {
    take(api.GET('/api/accept/{token}', { params: { path: { token } } }))
      .then((o) => (offer = o))
      .catch((e) => (problem = e instanceof Refused ? e.message : 'This offer could not be loaded. Please call us.'));
  });
  async function accept(e: SubmitEvent) {
    e.preventDefault();
    busy = true;
    refused = null;
    try {
      offer = await take(api.POST('/api/accept/{token}', { params: { path: { token } }, body: { name } }));
    } catch (e) {
      if (e instanceof Refused) refused = e;
    } finally {
      busy = false;
    }
  }
</script>

<svelte:head><title>Rate confirmation</title></svelte:head>
<main class="mx-auto max-w-xl p-6">
  {#if problem}<h1 class="mb-2 text-xl font-bold">Not found</h1>
    <p role="alert">{problem}</p>
  {:else if offer}
    <p class="text-mute text-sm">{offer.business}, {offer.phone}</p>
    <h1 class="mb-1 text-xl font-bold">Load {offer.loadNumber} for {offer.carrier}</h1>
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
    <p class="mb-5 flex justify-between text-lg">
      <span>Agreed rate, all inclusive</span><b class="fig">{said(offer.amount)}</b>
    </p>
    {#if offer.withdrawn}<Notice title="Withdrawn">This offer was withdrawn. Please call us.</Notice>
    {:else if offer.acceptedAt}
      <p class="text-moss-word font-bold" role="status">Accepted, signed {offer.acceptedBy}. Thank you.</p>
    {:else}
      <form class="flex flex-col gap-3" onsubmit={accept}>
        <TextField label="Your name" bind:value={name} required maxlength={80} problem={refused?.at('name')} />
        {#if refused && !refused.at('name')}<p class="text-ember-word" role="alert">{refused.message}</p>{/if}
        <div>
          <Button look="main" type="submit" {busy} disabled={!name.trim()}
            >Accept load {offer.loadNumber} for {said(offer.amount)}</Button
          >
        </div>
      </form>
    {/if}
  {:else}<p class="text-mute" role="status">Loading …</p>{/if}
</main>
