<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import Notice from '$ui/Notice.svelte';
  import TextField from '$ui/TextField.svelte';

  interface Props {
    on: boolean;
    required: boolean;
    /** Unused recovery codes. */
    left: number;
    onchanged: () => void;
  }
  /** Sets up an authenticator app as a second factor, or removes it. */
  let { on, required, left, onchanged }: Props = $props();
  let secret = $state<Schemas['SecondFactorSecret'] | null>(null);
  let codes = $state<string[]>([]);
  let code = $state('');
  const attempt = new Attempt();

  const begin = () =>
    attempt.run(async () => {
      codes = [];
      secret = await take(api.POST('/api/account/second-factor'));
    });
  const confirm = () =>
    attempt.run(async () => {
      codes = (await take(api.POST('/api/account/second-factor/confirm', { body: { code } }))).codes;
      secret = null;
      code = '';
      showDone('Second factor set up.');
    });
  const remove = () =>
    attempt.run(async () => {
      await take(api.POST('/api/account/second-factor/remove'));
      showDone('Second factor removed.');
      onchanged();
    });
</script>

{#if codes.length > 0}
  <Notice urgency="soon" title="Save these recovery codes"
    >Each signs you in once when you do not have your phone. They are not shown again.
    <span class="fig mt-2 grid w-fit grid-cols-2 gap-x-6 select-all">
      {#each codes as c (c)}<b>{c}</b>{/each}
    </span>
  </Notice>
  <div class="mt-3 flex gap-2">
    <Button
      small
      onclick={() => void navigator.clipboard?.writeText(codes.join('\n')).then(() => showDone('Codes copied.'))}
      >Copy</Button
    >
    <Button
      small
      look="main"
      onclick={() => {
        codes = [];
        onchanged();
      }}>I have saved them</Button
    >
  </div>
{:else if on}
  <p>
    On: signing in needs a code from your authenticator app. <span class="fig">{left}</span> recovery codes left.
  </p>
  {#if !required}<div class="mt-2"><Button small onclick={remove} busy={attempt.busy}>Remove</Button></div>{/if}
{:else if secret}
  <form
    class="flex flex-wrap items-start gap-5"
    onsubmit={(e) => {
      e.preventDefault();
      void confirm();
    }}
  >
    <img
      class="border-line h-44 w-44 rounded border bg-white"
      src={secret.picture}
      alt="QR code for an authenticator app"
    />
    <div class="flex min-w-56 flex-1 flex-col gap-3">
      <p class="text-sm">
        Scan this with an authenticator app, or type the key: <b class="fig block break-all select-all"
          >{secret.secret}</b
        >
      </p>
      <!-- svelte-ignore a11y_autofocus -->
      <TextField
        label="Code that the app shows"
        bind:value={code}
        inputmode="numeric"
        autocomplete="one-time-code"
        maxlength={7}
        autofocus
        problem={attempt.at('code')}
      />
      <div class="flex gap-2">
        <Button small look="main" type="submit" busy={attempt.busy}>Turn on</Button>
        <Button small onclick={() => (secret = null)}>Cancel</Button>
      </div>
    </div>
  </form>
{:else}
  <p class="mb-2">Off. With a second factor, signing in takes your password and a code from an app on your phone.</p>
  <Button small onclick={begin} busy={attempt.busy}>Set up</Button>
{/if}
{#if attempt.refused?.general}<p class="text-ember-word mt-2 text-sm" role="alert">{attempt.refused.general}</p>{/if}
