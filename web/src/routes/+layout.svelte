<script lang="ts">
  import '../app.css';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { Toaster } from 'svelte-sonner';
  import { session } from '$lib/state/session.svelte';
  import { live } from '$lib/state/live.svelte';
  import { formatLocal } from '$lib/time/when';
  import ConfirmPassword from '$lib/people/ConfirmPassword.svelte';
  import Enroll from '$lib/people/Enroll.svelte';
  import Shell from '$lib/shell/Shell.svelte';
  import { keyGrammar } from '$ui/forms';

  let { children } = $props();
  $effect(() => keyGrammar());
  let ready = $state(false);
  let away = $state(false);
  // External links and the sign-in page need no user; drivers have pages of their own.
  const open = $derived(
    page.url.pathname.startsWith('/accept/') ||
      page.url.pathname.startsWith('/track/') ||
      page.url.pathname.startsWith('/upload/') ||
      page.url.pathname.startsWith('/welcome/') ||
      page.url.pathname === '/signin',
  );
  // Set by the server while its clock is set.
  const clockSet = document.querySelector('meta[name="lark-now"]')?.getAttribute('content');
  if (clockSet) {
    session.setClock(clockSet);
    session.clockSet = true;
  }
  const phone = $derived(page.url.pathname.startsWith('/phone'));

  $effect(() => {
    if (open || session.current) {
      ready = true;
      return;
    }
    session
      .load()
      .then((found) => {
        away = false;
        if (!found) void goto(`/signin?to=${encodeURIComponent(page.url.pathname + page.url.search)}`);
        else ready = true;
      })
      .catch(() => {
        away = true;
        setTimeout(() => location.reload(), 4000);
      });
  });
  $effect(() => {
    if (session.current && !open && !session.current.mustEnroll) {
      if (session.current.driverId && !phone) void goto('/phone');
      else if (!phone) live.start();
    }
  });
</script>

{#if clockSet && (open || phone)}
  <p class="bg-marigold-word text-paper px-3 py-0.5 text-center text-sm print:hidden" role="note">
    Clock set to {formatLocal(session.wallClock())}
  </p>
{/if}
<Toaster position="bottom-center" toastOptions={{ class: 'lark-toast' }} closeButton />
<ConfirmPassword />
{#if away}
  <p class="p-8" role="alert">Steady Lark is not responding. Retrying automatically.</p>
{:else if ready && session.current?.mustEnroll && !open}
  <Enroll />
{:else if open || phone}
  {#if ready}{@render children()}{/if}
{:else if ready && session.current && !session.current.driverId}
  <Shell>{@render children()}</Shell>
{/if}
