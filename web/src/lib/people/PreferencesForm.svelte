<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { showDone } from '$lib/state/messages.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { session } from '$lib/state/session.svelte';
  import { clockOptions, companyDefault, dateOrderOptions } from '$lib/time/formats';
  import { formatLocal } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';

  /** A user's date and time formats. */
  type Preferences = Schemas['Preferences'];
  const current = session.current!.preferences;
  let clock = $state<string>(current.clock ?? '');
  let order = $state<string>(current.dateOrder ?? '');
  const attempt = new Attempt();

  const save = () =>
    attempt.run(async () => {
      const body = { clock: clock || null, dateOrder: order || null } as Preferences;
      await take(api.PUT('/api/preferences', { body }));
      await session.load();
      showDone('Preferences saved.');
    });
</script>

<form
  class="grid max-w-xl grid-cols-2 gap-3"
  onsubmit={(e) => {
    e.preventDefault();
    void save();
  }}
>
  <Choice label="Clock" bind:value={clock} options={[companyDefault, ...clockOptions]} problem={attempt.at('clock')} />
  <Choice
    label="Date order"
    bind:value={order}
    options={[companyDefault, ...dateOrderOptions]}
    problem={attempt.at('dateOrder')}
  />
  <p class="text-mute col-span-2 text-sm">
    {#key session.current}Now: {formatLocal(session.wallClock())}{/key}
  </p>
  {#if session.current?.limitedTo}
    <p class="col-span-2 text-sm">
      Your view is limited: {session.current.limitedTo}. Ask an administrator to change it.
    </p>
  {/if}
  <div><Button look="main" type="submit" busy={attempt.busy}>Save</Button></div>
</form>
