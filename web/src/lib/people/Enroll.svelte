<script lang="ts">
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import SecondFactor from './SecondFactor.svelte';
  import Wordmark from './Wordmark.svelte';

  /** Shown to a user whose company requires a second factor, until they have one. */
</script>

<svelte:head><title>Second factor · Steady Lark</title></svelte:head>
<main class="mx-auto max-w-xl p-6">
  <Wordmark />
  <h1 class="mb-2 text-xl font-bold">Set up a second factor</h1>
  <p class="mb-4">
    {session.current?.business} requires one for everyone in the office. It takes a minute and an authenticator app on your
    phone.
  </p>
  <SecondFactor on={false} required left={0} onchanged={() => void session.load()} />
  <p class="mt-6"><Button look="quiet" small onclick={() => session.signOut()}>Sign out</Button></p>
</main>
