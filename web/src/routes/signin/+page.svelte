<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { Refused } from '$lib/api/client';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';

  let login = $state('');
  let password = $state('');
  let problem = $state('');
  let busy = $state(false);

  async function go(e: SubmitEvent) {
    e.preventDefault();
    busy = true;
    problem = '';
    try {
      const found = await session.signIn(login, password);
      const to = page.url.searchParams.get('to') ?? '';
      // Only ways within the house.
      await goto(found.role === 'driver' ? '/phone' : /^\/(?!\/)/.test(to) && to !== '/' ? to : '/today');
    } catch (e) {
      problem = e instanceof Refused ? e.message : 'Steady Lark is not responding. Try again.';
    } finally {
      busy = false;
    }
  }
</script>

<svelte:head><title>Sign in · Steady Lark</title></svelte:head>
<div class="grid min-h-dvh place-items-center p-6">
  <form class="w-full max-w-80" onsubmit={go}>
    <svg viewBox="0 0 200 46" class="mb-6 w-full" aria-hidden="true">
      <line x1="8" x2="192" y1="23" y2="23" stroke="var(--ink)" stroke-width="1.6" />
      <line x1="8" x2="96" y1="23" y2="23" stroke="var(--ink)" stroke-width="4.5" />
      <line x1="96" x2="96" y1="2" y2="44" stroke="var(--lark)" stroke-width="1.5" />
      <path d="M20 23v-8M150 23v8M186 23v8" stroke="var(--ink)" stroke-width="1.6" />
      <circle cx="20" cy="12" r="4" fill="var(--ink)" />
      <circle cx="150" cy="34" r="4" fill="var(--paper)" stroke="var(--ink)" stroke-width="1.6" />
      <circle cx="186" cy="34" r="4" fill="var(--paper)" stroke="var(--ink)" stroke-width="1.6" />
    </svg>
    <h1 class="mb-4 text-xl font-bold">Steady Lark</h1>
    <div class="flex flex-col gap-3">
      <TextField label="Username" bind:value={login} autocomplete="username" autocapitalize="none" required />
      <TextField label="Password" type="password" bind:value={password} autocomplete="current-password" required />
      {#if problem}<p class="text-ember-word" role="alert">{problem}</p>{/if}
      <Button look="main" type="submit" {busy}>Sign in</Button>
    </div>
  </form>
</div>
