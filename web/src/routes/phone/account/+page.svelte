<script lang="ts">
  import PreferencesForm from '$lib/people/PreferencesForm.svelte';
  import SignInSettings from '$lib/people/SignInSettings.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
</script>

<svelte:head><title>Account · Steady Lark</title></svelte:head>
{#if session.current}
  <main class="mx-auto flex max-w-xl flex-col gap-6 p-4">
    <div class="flex items-center justify-between gap-3">
      <a class="text-lark hover:underline" href="/phone">Back to my trips</a>
      <Button small onclick={() => session.signOut()}>Sign out</Button>
    </div>
    <h1 class="text-xl font-bold">{session.current.name}</h1>
    <section aria-label="Dates and times">
      <h2 class="mb-2 font-bold">Dates and times</h2>
      <PreferencesForm />
    </section>
    <SignInSettings />
  </main>
{/if}
