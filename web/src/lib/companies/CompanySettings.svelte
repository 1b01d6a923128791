<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { api, take } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import TextField from '$ui/TextField.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import { clockOptions, dateOrderOptions } from '../time/formats';
  import type { Money, Schemas } from '$lib/api/client';
  import CompanyIdentity from './CompanyIdentity.svelte';
  import PaymentDetails from './PaymentDetails.svelte';
  import CarrierRules from './CarrierRules.svelte';
  import { rulesAsSent, rulesOf } from './carrierRules';

  /** Settings for the whole company. */
  let twoPeople = $state(true);
  let hours = $state('24');
  let here = $state(false);
  let secondFactor = $state(false);
  let soleLimit = $state<Money | null>(null);
  let creditLimit = $state<Money | null>(null);
  let pastDueDays = $state('');
  let rules = $state(rulesOf({} as Schemas['CompanySettings']));
  const figures = [
    ['minimumPerMile', 'Minimum rate, USD per mile', 'empty miles included'],
    ['rateStep', 'Round rates up to, USD', ''],
    ['milesPerGallon', 'Fuel economy, mpg', ''],
    ['fuelPrice', 'Fuel price, USD per gallon', ''],
    ['driverPerMile', 'Driver pay, USD per mile', 'when the driver’s rate is unknown'],
    ['fixedPerMile', 'Truck, USD per mile', 'tires, maintenance'],
    ['fixedPerDay', 'Truck, USD per day', 'insurance, overhead'],
    ['tollPerMile', 'Tolls, USD per mile', 'on toll roads'],
    ['geofenceMiles', 'Default geofence radius, mi', 'for places without their own'],
    ['payrollTaxPercent', 'Employer payroll tax, %', 'of employees’ wages without per diem'],
    ['minimumWage', 'Minimum wage, USD per hour', 'left to employees after deductions'],
    ['escrowPercent', 'Escrow interest, % per year', 'at least the 91-day Treasury bill yield; paid each quarter'],
  ] as const;
  let typed = $state<Record<string, string>>({});
  let clock = $state('twenty_four_hour');
  let dateOrder = $state('month_first');
  const attempt = new Attempt();
  $effect(() => {
    take(api.GET('/api/company-settings'))
      .then((h) => {
        twoPeople = h.twoPeople;
        hours = String(h.requestAfterHours);
        secondFactor = h.secondFactor ?? false;
        soleLimit = h.soleLimit ?? null;
        creditLimit = h.defaultCreditLimit ?? null;
        pastDueDays = h.pastDueHoldDays ? String(h.pastDueHoldDays) : '';
        rules = rulesOf(h);
        clock = h.clock ?? clock;
        dateOrder = h.dateOrder ?? dateOrder;
        typed = Object.fromEntries(
          figures.map(([k]) => [
            k,
            String((h as unknown as Record<string, number>)[k] ?? (h.costs as Record<string, number>)[k]),
          ]),
        );
        here = true;
      })
      .catch(showError);
  });
  const draft = new Draft(
    () => 'company settings',
    () => ({ twoPeople, hours, secondFactor, soleLimit, creditLimit, pastDueDays, typed, clock, dateOrder, rules }),
    (v) =>
      ({ twoPeople, hours, secondFactor, soleLimit, creditLimit, pastDueDays, typed, clock, dateOrder, rules } = v),
    () => here,
  );
  const save = () =>
    attempt.run(async () => {
      await take(
        api.PUT('/api/company-settings', {
          body: {
            twoPeople,
            secondFactor,
            soleLimit: Number(soleLimit?.amount ?? 0),
            defaultCreditLimit: Number(creditLimit?.amount ?? 0),
            pastDueHoldDays: Number(pastDueDays) || 0,
            ...rulesAsSent(rules),
            requestAfterHours: Number(hours) || 0,
            clock: clock as 'twenty_four_hour',
            dateOrder: dateOrder as 'month_first',
            ...(Object.fromEntries(
              figures.map(([k]) => [k, typed[k]?.trim() && Number.isFinite(Number(typed[k])) ? Number(typed[k]) : -1]),
            ) as Record<(typeof figures)[number][0], number>),
          },
        }),
      );
      if (session.current) session.current.twoPeople = twoPeople;
      await session.load();
      draft.done();
      showDone('Company settings saved.');
    });
  const mayEdit = $derived(session.may('setup.edit'));
</script>

{#if here}
  {#if mayEdit}<CompanyIdentity /><PaymentDetails />{/if}
  <form
    class="flex max-w-2xl flex-col gap-4 px-5 pt-2"
    onsubmit={(e) => {
      e.preventDefault();
      void save();
    }}
  >
    <DraftNotice {draft} />
    <label class="flex items-start gap-2"
      ><input class="mt-1" type="checkbox" bind:checked={twoPeople} disabled={!mayEdit} /><span
        ><b>Approval and payment need two people.</b>
        <span class="text-mute block text-sm"
          >Applies to bills and driver settlements, and is enforced by the database. A one-person company can turn it
          off.</span
        ></span
      ></label
    >
    <div class="flex items-end gap-3">
      <MoneyField
        class="w-56 shrink-0"
        label="Limit for one person, USD"
        bind:value={soleLimit}
        problem={attempt.at('soleLimit')}
      />
      <p class="text-mute pb-1 text-sm">
        the most that one person may send alone: expenses entered as paid, bills of vendors they created, advances,
        refunds. Users with the permission to exceed the limit may send more. Empty is no limit.
      </p>
    </div>
    <div class="flex items-end gap-3">
      <MoneyField
        class="w-56 shrink-0"
        label="Credit limit, USD"
        bind:value={creditLimit}
        problem={attempt.at('defaultCreditLimit')}
      />
      <p class="text-mute pb-1 text-sm">
        for customers without a limit of their own: a load above it is on hold and is not covered until someone releases
        it. Empty is no limit.
      </p>
    </div>
    <div class="flex items-end gap-3">
      <TextField
        class="w-56 shrink-0"
        label="Hold new loads after days past due"
        inputmode="numeric"
        bind:value={pastDueDays}
        problem={attempt.at('pastDueHoldDays')}
      />
      <p class="text-mute pb-1 text-sm">
        when a customer's oldest open invoice is later than that. Empty is never. What was delivered is billed all the
        same.
      </p>
    </div>
    <label class="flex items-start gap-2"
      ><input class="mt-1" type="checkbox" bind:checked={secondFactor} disabled={!mayEdit} /><span
        ><b>Office users need a second factor.</b>
        <span class="text-mute block text-sm"
          >Users without one set it up at their next sign-in. Drivers are not asked.</span
        ></span
      ></label
    >
    <div class="flex items-end gap-3">
      <TextField
        class="w-56 shrink-0"
        label="Request missing documents after, hours"
        inputmode="numeric"
        bind:value={hours}
        disabled={!mayEdit}
        problem={attempt.at('requestAfterHours')}
      />
      <p class="text-mute pb-1 text-sm">
        after delivery: carriers by email with an upload link, drivers on their phone; repeated every two days, up to
        three times. 0 turns automatic requests off.
      </p>
    </div>
    <fieldset class="contents" disabled={!mayEdit}><CarrierRules bind:rules {attempt} /></fieldset>
    <h2 class="mt-2 font-bold">Default date and time format</h2>
    <div class="grid grid-cols-3 gap-3">
      <Choice label="Clock" bind:value={clock} options={clockOptions} problem={attempt.at('clock')} />
      <Choice label="Date order" bind:value={dateOrder} options={dateOrderOptions} problem={attempt.at('dateOrder')} />
    </div>
    <h2 class="mt-2 font-bold">Cost assumptions and payroll</h2>
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
