<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { findCustomers } from '$lib/companies/find';
  import type { Attempt } from '$lib/state/attempt.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Picker from '$ui/Picker.svelte';
  import TextField from '$ui/TextField.svelte';
  import X from '@lucide/svelte/icons/x';
  import { SvelteMap } from 'svelte/reactivity';

  interface Props {
    limits: Schemas['ViewLimitsRequest'];
    offices: Schemas['UnitRow'][];
    /** A driver can be limited in days ahead only. */
    driver: boolean;
    attempt: Attempt;
  }
  /** A user's view limits. */
  let { limits = $bindable(), offices, driver, attempt }: Props = $props();
  let groups = $state<Schemas['UnitRow'][]>([]);
  const names = new SvelteMap<number, string>();
  let picked = $state<Awaited<ReturnType<typeof findCustomers>>[number] | null>(null);

  $effect(() => {
    if (session.may('fleet.see'))
      take(api.GET('/api/driver-groups'))
        .then((g) => (groups = g))
        .catch(showError);
  });
  $effect(() => {
    for (const id of limits.customers ?? [])
      if (!names.has(id)) {
        names.set(id, '…');
        take(api.GET('/api/companies/{id}', { params: { path: { id } } }))
          .then((c) => names.set(id, c.company.name))
          .catch(showError);
      }
  });
  const limited = $derived(
    !!(limits.customers || limits.offices || limits.driverGroups) || typeof limits.daysAhead === 'number',
  );
  function toggle(field: 'offices' | 'driverGroups', id: number, on: boolean) {
    const now = limits[field] ?? [];
    limits = { ...limits, [field]: on ? [...now, id] : now.filter((x) => x !== id) };
  }
  function limit(field: 'customers' | 'offices' | 'driverGroups', on: boolean) {
    limits = { ...limits, [field]: on ? [] : null };
  }
</script>

{#snippet part(field: 'customers' | 'offices' | 'driverGroups', label: string)}
  <label class="flex min-h-7 items-center gap-2">
    <input type="checkbox" checked={!!limits[field]} onchange={(e) => limit(field, e.currentTarget.checked)} />
    <span>{label}</span>
  </label>
{/snippet}
{#snippet units(field: 'offices' | 'driverGroups', all: Schemas['UnitRow'][])}
  {#if limits[field]}
    <div class="mb-1 ml-6">
      {#each all.filter((u) => u.active || limits[field]?.includes(u.id)) as unit (unit.id)}
        <label class="flex min-h-7 items-center gap-2">
          <input
            type="checkbox"
            checked={limits[field]?.includes(unit.id)}
            onchange={(e) => toggle(field, unit.id, e.currentTarget.checked)}
          />
          <span>{unit.name}</span>
        </label>
      {/each}
    </div>
  {/if}
  {#if attempt.at(`limits.${field}`)}<p class="text-ember-word ml-6 text-sm" role="alert">
      {attempt.at(`limits.${field}`)}
    </p>{/if}
{/snippet}

<fieldset>
  <legend class="text-mute mb-0.5 text-sm font-bold">View</legend>
  {#if !driver}
    {@render part('customers', 'Only some customers')}
    {#if limits.customers}
      <div class="mb-1 ml-6">
        <ul>
          {#each limits.customers as id (id)}
            <li class="flex min-h-7 items-center gap-2">
              <span class="min-w-0 flex-1 truncate">{names.get(id)}</span>
              <button
                type="button"
                class="text-mute hover:bg-faint rounded p-1"
                aria-label="Remove {names.get(id)}"
                onclick={() => (limits = { ...limits, customers: limits.customers!.filter((x) => x !== id) })}
                ><X size={16} /></button
              >
            </li>
          {/each}
        </ul>
        <Picker
          label="Add customer"
          bind:value={picked}
          find={findCustomers}
          name={(c) => c.name}
          detail={(c) => c.town ?? ''}
          key={(c) => c.id}
          problem={attempt.at('limits.customers')}
          onchosen={(c) => {
            if (!c) return;
            names.set(c.id, c.name);
            if (!limits.customers!.includes(c.id)) limits = { ...limits, customers: [...limits.customers!, c.id] };
            picked = null;
          }}
        />
      </div>
    {/if}
    {#if offices.length}
      {@render part('offices', 'Only loads of some offices')}
      {@render units('offices', offices)}
    {/if}
    {#if groups.length}
      {@render part('driverGroups', 'Only some driver groups')}
      {@render units('driverGroups', groups)}
    {/if}
  {/if}
  <TextField
    class="mt-1 max-w-60"
    label="Show loads this many days ahead"
    inputmode="numeric"
    placeholder="no limit"
    bind:value={
      () => String(limits.daysAhead ?? ''),
      (v) => (limits = { ...limits, daysAhead: v.trim() === '' ? null : Number(v.replace(/\D/g, '') || NaN) })
    }
    problem={attempt.at('limits.daysAhead')}
  />
  {#if attempt.at('limits')}<p class="text-ember-word text-sm" role="alert">{attempt.at('limits')}</p>{/if}
  {#if !driver && limited}
    <p class="text-mute mt-1 text-sm">
      A user with a limited view does not see the ledger, the audit log, users or company settings, whatever their role.
    </p>
  {/if}
</fieldset>
