<script lang="ts">
  import { Dialog } from 'bits-ui';
  import { api, take } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { confirmation } from '$lib/state/confirm.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';

  /** The dialog that asks for the password before payments and changes of rights. */
  let password = $state('');
  let code = $state('');
  let needsCode = $state(false);
  const attempt = new Attempt();

  function close(done: boolean) {
    password = code = '';
    needsCode = false;
    attempt.refused = null;
    confirmation.done(done);
  }
  const go = () =>
    attempt
      .run(async () => {
        await take(api.POST('/api/session/confirm', { body: { password, code: code || null } }));
        close(true);
      })
      .then(() => {
        if (attempt.refused?.problems.some((p) => p.code === 'second.factor')) {
          needsCode = true;
          attempt.refused = null;
        }
      });
</script>

<Dialog.Root
  open={confirmation.open}
  onOpenChange={(open) => {
    if (!open) close(false);
  }}
>
  <Dialog.Portal>
    <Dialog.Overlay class="bg-ink/30 fixed inset-0 z-50" />
    <Dialog.Content
      class="border-line bg-panel fixed top-1/2 left-1/2 z-50 w-96 max-w-[calc(100vw-2rem)] -translate-x-1/2 -translate-y-1/2 rounded-lg border p-5 shadow-lg"
    >
      <Dialog.Title class="text-lg font-bold">Enter your password</Dialog.Title>
      <Dialog.Description class="text-mute mb-3 text-sm">
        This sends money or changes who may do what. Your password counts for 15 minutes.
      </Dialog.Description>
      <form
        class="flex flex-col gap-3"
        onsubmit={(e) => {
          e.preventDefault();
          void go();
        }}
      >
        <input class="hidden" autocomplete="username" value={session.current?.login ?? ''} readonly />
        <TextField
          label="Password of {session.current?.login ?? ''}"
          type="password"
          bind:value={password}
          autocomplete="current-password"
          problem={attempt.at('password')}
        />
        {#if needsCode}
          <TextField
            label="Code from your authenticator app"
            bind:value={code}
            autocomplete="one-time-code"
            inputmode="numeric"
            problem={attempt.at('code')}
          />
        {/if}
        {#if attempt.refused?.general}<p class="text-ember-word text-sm" role="alert">{attempt.refused.general}</p>{/if}
        <div class="flex justify-end gap-2">
          <Button onclick={() => close(false)}>Cancel</Button>
          <Button look="main" type="submit" busy={attempt.busy}>Continue</Button>
        </div>
      </form>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
