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
  const figures = [
    ['leastPerMile', 'Minimum rate, USD per mile', 'empty miles included'],
    ['rateStep', 'Round rates up to, USD', ''],
    ['milesPerGallon', 'Fuel economy, mpg', ''],
    ['fuelPrice', 'Fuel price, USD per gallon', ''],
    ['driverPerMile', 'Driver pay, USD per mile', 'when the driver’s rate is unknown'],
    ['fixedPerMile', 'Truck, USD per mile', 'tires, maintenance'],
    ['fixedPerDay', 'Truck, USD per day', 'insurance, overhead'],
    ['tollPerMile', 'Tolls, USD per mile', 'on toll roads'],
    ['fenceMiles', 'Default geofence radius, mi', 'for places without their own'],
  ] as const;
  let typed = $state<Record<string, string>>({});
  const attempt = new Attempt();
  $effect(() => {
    take(api.GET('/api/company-settings'))
      .then((h) => {
        twoPeople = h.twoPeople;
        hours = String(h.requestAfterHours);
        typed = Object.fromEntries(
          figures.map(([k]) => [
            k,
            String((h as unknown as Record<string, number>)[k] ?? (h.costs as Record<string, number>)[k]),
          ]),
        );
        here = true;
      })
      .catch(wentWrong);
  });
  const save = () =>
    attempt.run(async () => {
      await take(
        api.PUT('/api/company-settings', {
          body: {
            twoPeople,
            askAfterHours: Number(hours) || 0,
            ...(Object.fromEntries(
              figures.map(([k]) => [k, typed[k]?.trim() && Number.isFinite(Number(typed[k])) ? Number(typed[k]) : -1]),
            ) as Record<(typeof figures)[number][0], number>),
          },
        }),
      );
      if (session.current) session.current.twoPeople = twoPeople;
      told('Company settings saved.');
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
        ><b>Approval and payment need two people.</b>
        <span class="text-mute block text-sm"
          >Bills and weeks of pay. A house of one person turns it off; the database keeps to it either way.</span
        ></span
      ></label
    >
    <div class="flex items-end gap-3">
      <TextField
        class="w-40"
        label="Request missing documents after, hours"
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
    <h2 class="mt-2 font-bold">Cost assumptions</h2>
    <div class="grid grid-cols-3 gap-3">
      {#each figures as [key, label, hint] (key)}
        <TextField
          {label}
          hint={hint || undefined}
          inputmode="decimal"
          bind:value={typed[key]}
          disabled={!mayEdit}
          problem={attempt.at(key)}
        />
      {/each}
    </div>
    {#if mayEdit}<div><Button look="main" type="submit" busy={attempt.busy}>Save</Button></div>
    {:else}<p class="text-mute text-sm">Only the owner can change these.</p>{/if}
  </form>
{/if}
