<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import PreferencesForm from '$lib/people/PreferencesForm.svelte';
  import SignInSettings from '$lib/people/SignInSettings.svelte';
  import Tokens from '$lib/people/Tokens.svelte';
  import { session } from '$lib/state/session.svelte';
  import Head from '$ui/Head.svelte';

  const tab = $derived(page.url.searchParams.get('tab') ?? 'dates');
</script>

<svelte:head><title>Preferences · Steady Lark</title></svelte:head>

<div class="flex h-full flex-col">
  <Head
    title="Preferences"
    tabs={[
      { id: 'dates', label: 'Dates and times' },
      { id: 'account', label: 'Password and sign-in' },
      ...(session.may('tokens.own') ? [{ id: 'tokens', label: 'API tokens' }] : []),
    ]}
    {tab}
    ontab={(t) => void goto(t === 'dates' ? '/preferences' : `/preferences?tab=${t}`)}
  />
  <div class="min-h-0 flex-1 overflow-y-auto px-5 py-4">
    <p class="mb-4">{session.current?.name}, signed in as <b>{session.current?.login}</b> ({session.current?.role})</p>
    {#if tab === 'account'}<SignInSettings />
    {:else if tab === 'tokens'}<Tokens />
    {:else}<PreferencesForm />{/if}
  </div>
</div>
