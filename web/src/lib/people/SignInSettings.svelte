<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { requireSame } from './password';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatShort, localAt } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';
  import NewPassword from './NewPassword.svelte';
  import SecondFactor from './SecondFactor.svelte';

  /** One's own password, second factor and sessions. */
  let account = $state<Schemas['AccountView'] | null>(null);
  let current = $state('');
  let password = $state('');
  let repeated = $state('');
  const attempt = new Attempt();

  const load = () =>
    take(api.GET('/api/account'))
      .then((a) => (account = a))
      .catch(showError);
  $effect(() => void load());

  const change = () =>
    attempt.run(async () => {
      requireSame(password, repeated);
      await take(api.POST('/api/account/password', { body: { current, password } }));
      current = password = repeated = '';
      showDone('Password changed. Your other sessions were signed out.');
      await load();
    });
  async function end(id: string) {
    await take(api.POST('/api/account/sessions/{id}/end', { params: { path: { id } } })).catch(showError);
    await load();
  }
  async function endOthers() {
    await take(api.POST('/api/account/sessions/end-others')).catch(showError);
    showDone('Your other sessions were signed out.');
    await load();
  }
  const when = (at: string) => formatShort(localAt(at, session.zone));
</script>

{#if account}
  <div class="flex max-w-xl flex-col gap-6">
    <section aria-label="Password">
      <h2 class="mb-2 font-bold">Password</h2>
      <form
        class="grid grid-cols-2 gap-3"
        onsubmit={(e) => {
          e.preventDefault();
          void change();
        }}
      >
        <input class="hidden" autocomplete="username" value={account.user.login} readonly />
        <TextField
          class="col-span-2"
          label="Current password"
          type="password"
          bind:value={current}
          autocomplete="current-password"
          problem={attempt.at('current')}
        />
        <NewPassword bind:password bind:repeated at={(f) => attempt.at(f)} />
        {#if attempt.refused?.general}
          <p class="text-ember-word col-span-2 text-sm" role="alert">{attempt.refused.general}</p>
        {/if}
        <div><Button type="submit" busy={attempt.busy} disabled={!current || !password}>Change password</Button></div>
      </form>
    </section>
    <section aria-label="Second factor">
      <h2 class="mb-2 font-bold">Second factor</h2>
      <SecondFactor
        on={account.user.secondFactor}
        required={account.secondFactorRequired}
        left={account.recoveryCodesLeft}
        onchanged={load}
      />
    </section>
    <section aria-label="Signed in">
      <h2 class="mb-1 font-bold">Where you are signed in</h2>
      <ul>
        {#each account.sessions as s (s.id)}
          <li class="border-line flex min-h-9 flex-wrap items-center gap-x-3 border-b py-1 text-sm">
            <b class="min-w-40 flex-1 truncate">{s.device ?? 'Unknown device'}</b>
            <span class="text-mute">{s.address}</span>
            <span class="fig text-mute">last used {when(s.lastSeenAt)}</span>
            {#if s.id === account.current}<span class="w-20 text-right">this one</span>
            {:else}<span class="w-20 text-right"
                ><Button small look="quiet" onclick={() => end(s.id)}>Sign out</Button></span
              >{/if}
          </li>
        {/each}
      </ul>
      {#if account.sessions.length > 1}
        <div class="mt-2"><Button small onclick={endOthers}>Sign out everywhere else</Button></div>
      {/if}
    </section>
  </div>
{/if}
