<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, Refused, take } from '$lib/api/client';
  import Wordmark from '$lib/people/Wordmark.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';

  let login = $state(page.url.searchParams.get('as') ?? '');
  let password = $state('');
  let code = $state('');
  let problem = $state('');
  let busy = $state(false);
  let step = $state<'password' | 'code' | 'forgot' | 'sent'>('password');

  async function act(work: () => Promise<void>) {
    busy = true;
    problem = '';
    try {
      await work();
    } catch (e) {
      if (e instanceof Refused && e.problems.some((p) => p.code === 'second.factor')) step = 'code';
      else problem = e instanceof Refused ? e.message : 'Steady Lark is not responding. Try again.';
    } finally {
      busy = false;
    }
  }
  const signIn = () =>
    act(async () => {
      const found = await session.signIn(login, password, code);
      const to = page.url.searchParams.get('to') ?? '';
      // Only our own addresses.
      await goto(found.driverId ? '/phone' : /^\/(?!\/)/.test(to) && to !== '/' ? to : '/today');
    });
  const reset = () =>
    act(async () => {
      await take(api.POST('/api/password-reset', { body: { name: login } }));
      step = 'sent';
    });
</script>

<svelte:head><title>Sign in · Steady Lark</title></svelte:head>
<div class="grid min-h-dvh place-items-center p-6">
  <form
    class="w-full max-w-80"
    onsubmit={(e) => {
      e.preventDefault();
      void (step === 'forgot' ? reset() : signIn());
    }}
  >
    <Wordmark />
    <h1 class="mb-4 text-xl font-bold">
      {step === 'forgot' || step === 'sent' ? 'Reset your password' : 'Steady Lark'}
    </h1>
    <div class="flex flex-col gap-3">
      {#if step === 'sent'}
        <p role="status">
          If we know <b>{login}</b>, a link to choose a new password is on its way to their email. It works for one
          hour.
        </p>
        <Button onclick={() => (step = 'password')}>Back to sign in</Button>
      {:else if step === 'code'}
        <p class="text-sm">
          Signing in as <b>{login}</b>. Enter the code from your authenticator app, or a recovery code.
        </p>
        <!-- svelte-ignore a11y_autofocus -->
        <TextField label="Code" bind:value={code} autocomplete="one-time-code" autofocus required />
        {#if problem}<p class="text-ember-word" role="alert">{problem}</p>{/if}
        <Button look="main" type="submit" {busy}>Sign in</Button>
      {:else}
        <TextField
          label="Username or email"
          bind:value={login}
          autocomplete="username"
          autocapitalize="none"
          required
        />
        {#if step === 'password'}
          <TextField label="Password" type="password" bind:value={password} autocomplete="current-password" required />
        {/if}
        {#if problem}<p class="text-ember-word" role="alert">{problem}</p>{/if}
        {#if step === 'password'}
          <Button look="main" type="submit" {busy}>Sign in</Button>
          <Button look="quiet" onclick={() => (step = 'forgot')}>Forgot your password?</Button>
        {:else}
          <Button look="main" type="submit" {busy} disabled={!login.trim()}>Email me a link</Button>
          <Button look="quiet" onclick={() => (step = 'password')}>Back to sign in</Button>
        {/if}
      {/if}
    </div>
  </form>
</div>
