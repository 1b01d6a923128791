<script lang="ts">
  import { api, take } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { told, wentWrong } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';

  /** What holds for the whole house. */
  let twoPeople = $state(true);
  let hours = $state('24');
  let here = $state(false);
  const attempt = new Attempt();
  $effect(() => {
    take(api.GET('/api/house'))
      .then((h) => {
        twoPeople = h.twoPeople;
        hours = String(h.askAfterHours);
        here = true;
      })
      .catch(wentWrong);
  });
  const save = () =>
    attempt.run(async () => {
      await take(api.PUT('/api/house', { body: { twoPeople, askAfterHours: Number(hours) || 0 } }));
      if (session.current) session.current.twoPeople = twoPeople;
      told('The house goes by this from now on.');
    });
  const mayEdit = $derived(session.may('setup.edit'));
</script>

{#if here}
  <form
    class="flex max-w-2xl flex-col gap-4 px-5 pt-2"
    onsubmit={(e) => {
      e.preventDefault();
      void save();
    }}
  >
    <label class="flex items-start gap-2"
      ><input class="mt-1" type="checkbox" bind:checked={twoPeople} disabled={!mayEdit} /><span
        ><b>What one approves, another pays.</b>
        <span class="text-mute block text-sm"
          >Bills and weeks of pay. A house of one person turns it off; the database keeps to it either way.</span
        ></span
      ></label
    >
    <div class="flex items-end gap-3">
      <TextField
        class="w-40"
        label="Ask for papers after, hours"
        inputmode="numeric"
        bind:value={hours}
        disabled={!mayEdit}
        problem={attempt.at('askAfterHours')}
      />
      <p class="text-mute pb-1 text-sm">
        from the delivery on; carriers by mail with a link, drivers on their phone; again every two days, three times.
        0: only by hand.
      </p>
    </div>
    {#if mayEdit}<div><Button look="main" type="submit" busy={attempt.busy}>Keep to this</Button></div>
    {:else}<p class="text-mute text-sm">The owner changes these.</p>{/if}
  </form>
{/if}
