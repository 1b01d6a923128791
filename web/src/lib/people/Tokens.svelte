<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDay, formatShort, localAt } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';
  import RightPicker from './RightPicker.svelte';

  /** API tokens: for programs that work in a user's name, with selected permissions and an expiration date. */
  let tokens = $state<Schemas['TokenRow'][] | null>(null);
  let offered = $state<Schemas['RightInfo'][]>([]);
  let name = $state('');
  let days = $state('90');
  let chosen = $state<string[]>([]);
  let issued = $state('');
  let adding = $state(false);
  const attempt = new Attempt();

  const load = () =>
    take(api.GET('/api/tokens'))
      .then((t) => {
        tokens = t.tokens;
        offered = t.offered.filter((o) => session.may(o.name));
      })
      .catch(showError);
  $effect(() => void load());

  const add = () =>
    attempt.run(async () => {
      issued = (await take(api.POST('/api/tokens', { body: { name, rights: chosen, days: Number(days) || 0 } }))).token;
      name = '';
      chosen = [];
      adding = false;
      await load();
    });
  async function revoke(t: Schemas['TokenRow']) {
    await take(api.POST('/api/tokens/{id}/revoke', { params: { path: { id: t.id } } }))
      .then(() => showDone(`API token ${t.name} revoked.`))
      .catch(showError);
    await load();
  }
  const ended = (t: Schemas['TokenRow']) => t.revokedAt ?? (Date.parse(t.endsAt) < session.now ? t.endsAt : null);
</script>

<div class="max-w-3xl">
  <p class="text-mute mb-3 text-sm">
    A program sends its token in the header <span class="fig">Authorization: Bearer</span>. A token can never do more
    than you can.
  </p>
  {#if issued}
    <p class="border-moss bg-panel mb-4 rounded-md border-l-[3px] px-3 py-2" role="status">
      The new token. Copy it now; it is not shown again:
      <b class="fig block break-all select-all">{issued}</b>
    </p>
  {/if}
  <ul>
    {#each tokens ?? [] as t (t.id)}
      <li class="border-line flex min-h-9 items-center gap-3 border-b text-sm {ended(t) ? 'text-mute' : ''}">
        <b class="min-w-0 flex-1 truncate"
          >{t.name}{#if t.user !== session.current?.name}<span class="font-normal">, {t.user}</span>{/if}</b
        >
        <span class="min-w-0 flex-[2] truncate" title={t.rights.join(', ')}>{t.rights.join(', ')}</span>
        <span class="fig">
          {#if t.revokedAt}revoked{:else if ended(t)}expired{:else}until {formatDay(
              localAt(t.endsAt, session.zone).slice(0, 10),
            )}{/if}
        </span>
        <span class="fig text-mute"
          >{t.lastUsedAt ? `last used ${formatShort(localAt(t.lastUsedAt, session.zone))}` : 'never used'}</span
        >
        <span class="w-20 text-right"
          >{#if !ended(t)}<Button small look="quiet" onclick={() => revoke(t)}>Revoke</Button>{/if}</span
        >
      </li>
    {:else}{#if tokens}<li class="text-mute py-1">No API tokens.</li>{/if}{/each}
  </ul>
  {#if adding}
    <form
      class="mt-4 flex flex-col gap-3"
      onsubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <div class="grid grid-cols-[1fr_8rem] gap-3">
        <!-- svelte-ignore a11y_autofocus -->
        <TextField label="Name" bind:value={name} required maxlength={60} autofocus problem={attempt.at('name')} />
        <TextField label="Days it lasts" bind:value={days} inputmode="numeric" problem={attempt.at('days')} />
      </div>
      <RightPicker {offered} bind:chosen problem={attempt.at('rights')} />
      {#if attempt.refused?.general}<p class="text-ember-word text-sm" role="alert">{attempt.refused.general}</p>{/if}
      <div class="flex gap-2">
        <Button look="main" type="submit" busy={attempt.busy}>Create token</Button>
        <Button onclick={() => (adding = false)}>Cancel</Button>
      </div>
    </form>
  {:else}
    <div class="mt-3"><Button small onclick={() => ((adding = true), (issued = ''))}>New API token</Button></div>
  {/if}
</div>
