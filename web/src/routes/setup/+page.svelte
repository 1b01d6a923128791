<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, take, type Schemas } from '$lib/api/client';
  import PayRates from '$lib/paying/PayRates.svelte';
  import CompanySettings from '$lib/companies/CompanySettings.svelte';
  import CompanyForm from '$lib/companies/CompanyForm.svelte';
  import CompanySheet from '$lib/companies/CompanySheet.svelte';
  import FleetForm from '$lib/companies/FleetForm.svelte';
  import EquipmentMatches from '$lib/companies/EquipmentMatches.svelte';
  import FeatureList from '$lib/companies/FeatureList.svelte';
  import FreightLists from '$lib/companies/FreightLists.svelte';
  import FleetLists from '$lib/companies/FleetLists.svelte';
  import PlaceForm from '$lib/companies/PlaceForm.svelte';
  import PlaceDetails from '$lib/companies/PlaceDetails.svelte';
  import { onChange } from '$lib/state/change.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { zoneName } from '$lib/time/when';
  import List from '$lib/lists/List.svelte';
  import CustomFields from '$lib/loads/CustomFields.svelte';
  import Audit from '$lib/people/Audit.svelte';
  import Roles from '$lib/people/Roles.svelte';
  import Units from '$lib/people/Units.svelte';
  import UserForm from '$lib/people/UserForm.svelte';
  import Users from '$lib/people/Users.svelte';
  import Button from '$ui/Button.svelte';
  import Head from '$ui/Head.svelte';
  import Sheet from '$ui/Sheet.svelte';
  import Slate from '$ui/Slate.svelte';

  const q = $derived(page.url.searchParams);
  const tab = $derived(q.get('tab') ?? 'companies');
  const companyId = $derived(Number(q.get('company')) || null);
  const placeId = $derived(Number(q.get('place')) || null);
  const driverId = $derived(Number(q.get('driver')) || null);
  const truckId = $derived(Number(q.get('truck')) || null);
  const userId = $derived(Number(q.get('user')) || null);
  const trailerId = $derived(Number(q.get('trailer')) || null);
  const making = $derived(q.get('new'));
  let companies = $state<Schemas['CompanyRow'][] | null>(null);
  let place = $state<Schemas['PlaceRow'] | null>(null);
  let fleet = $state<Schemas['FleetView'] | null>(null);
  let view = $state<Schemas['CompanyView'] | null>(null);
  let like = $state('');

  async function load() {
    try {
      if (tab === 'companies')
        companies = (await take(api.GET('/api/companies', { params: { query: { q: like || undefined, limit: 500 } } })))
          .rows;
      else if (tab === 'fleet') fleet = await take(api.GET('/api/fleet'));
    } catch (e) {
      showError(e);
    }
  }
  $effect(() => {
    void tab;
    void like;
    void load();
    return live.follow(load, ['companies', 'places', 'fleet']);
  });
  async function loadCompany() {
    if (companyId)
      view = await take(api.GET('/api/companies/{id}', { params: { path: { id: companyId } } })).catch((e) => {
        showError(e);
        return null;
      });
  }
  onChange(
    () => companyId,
    () => {
      view = null;
      void loadCompany();
    },
  );
  $effect(() => {
    place = null;
    if (placeId)
      void take(api.GET('/api/places/{id}', { params: { path: { id: placeId } } }))
        .then((p) => (place = p))
        .catch(showError);
  });
  const to = (path: string) => void goto(`/setup${path}`, { keepFocus: true, noScroll: true });
  const groups = $derived([
    { title: 'Customers', rows: (companies ?? []).filter((c) => c.isCustomer) },
    { title: 'Carriers', rows: (companies ?? []).filter((c) => c.isCarrier && !c.isCustomer) },
    { title: 'Vendors', rows: (companies ?? []).filter((c) => c.isVendor && !c.isCarrier && !c.isCustomer) },
  ]);
</script>

<svelte:head><title>Setup · Steady Lark</title></svelte:head>
<div class="flex h-full">
  <section class="flex min-w-0 flex-1 flex-col">
    <Head
      title="Setup"
      tabs={[
        { id: 'companies', label: 'Address book' },
        { id: 'everyone', label: 'All companies' },
        { id: 'places', label: 'Places' },
        { id: 'fleet', label: 'Fleet' },
        { id: 'freight', label: 'Freight and rates' },
        { id: 'fields', label: 'Custom fields' },
        { id: 'settings', label: 'Company settings' },
        { id: 'units', label: 'Offices and groups' },
        ...(session.may('users.edit')
          ? [
              { id: 'users', label: 'Users' },
              { id: 'roles', label: 'Roles' },
            ]
          : []),
        ...(session.may('audit.see') ? [{ id: 'audit', label: 'Audit log' }] : []),
      ]}
      {tab}
      ontab={(t) => {
        like = '';
        to(t === 'companies' ? '' : `?tab=${t}`);
      }}
    >
      {#if tab === 'companies'}
        <input
          class="border-line bg-panel h-8 w-44 rounded-md border px-2 text-sm"
          placeholder="Filter"
          aria-label="Filter"
          bind:value={like}
        />
        {#if session.may('companies.edit')}
          {#if tab === 'companies'}<Button small onclick={() => to('?new=customer')}>New customer</Button><Button
              small
              onclick={() => to('?new=carrier')}>New carrier</Button
            ><Button small onclick={() => to('?new=vendor')}>New vendor</Button>
          {/if}
        {/if}
      {:else if tab === 'fleet' && session.may('fleet.edit')}
        <Button small onclick={() => to('?tab=fleet&new=driver')}>New driver</Button><Button
          small
          onclick={() => to('?tab=fleet&new=truck')}>New truck</Button
        ><Button small onclick={() => to('?tab=fleet&new=trailer')}>New trailer</Button>
      {:else if tab === 'places' && session.may('companies.edit')}
        <Button small onclick={() => to('?tab=places&new=place')}>New place</Button>
      {:else if tab === 'users' && session.may('users.edit')}
        <Button small onclick={() => to('?tab=users&new=user')}>Invite user</Button>
      {/if}
    </Head>
    <div class="min-h-0 flex-1 overflow-y-auto pt-2">
      {#if tab === 'companies'}
        <Slate
          label="Address book"
          {groups}
          key={(c) => c.id}
          open={companyId}
          onopen={(c) => to(`?company=${c.id}`)}
          loading={companies === null}
          empty="No match. Create a customer or carrier with the buttons above, or while booking."
          dense
        >
          {#snippet row(c)}
            <span class="flex h-[30px] items-center gap-3 pr-4 pl-5">
              <span class="min-w-0 flex-1 truncate font-bold">{c.name}</span>
              <span class="text-ember-word w-36 shrink-0 truncate text-sm">{c.carrier?.unfit ?? ''}</span>
              <span class="text-mute w-40 shrink-0 truncate text-sm">{c.town ?? ''} {c.region ?? ''}</span>
              <span class="fig w-28 shrink-0 text-sm">{c.phone ?? ''}</span>
            </span>
          {/snippet}
        </Slate>
      {:else if tab === 'places'}
        <div class="-mt-2 h-full">
          <List list="places" open={placeId} onopen={(id) => to(`?tab=places&place=${id}`)} />
        </div>
      {:else if tab === 'everyone'}
        <div class="-mt-2 h-full">
          <List list="companies" open={companyId} onopen={(id) => to(`?tab=everyone&company=${id}`)} />
        </div>
      {:else if tab === 'fields'}
        <CustomFields />
      {:else if tab === 'settings'}
        <CompanySettings />
      {:else if tab === 'units'}
        <Units />
      {:else if tab === 'users'}
        <Users open={userId} onopen={(id) => to(`?tab=users&user=${id}`)} />
      {:else if tab === 'roles'}
        <Roles />
      {:else if tab === 'audit'}
        <Audit />
      {:else if tab === 'freight'}
        <FreightLists />
      {:else if fleet}
        <FleetLists {fleet} {driverId} />
        <EquipmentMatches />
        <FeatureList />
      {/if}
    </div>
  </section>
  {#if tab === 'users' && (userId || making === 'user')}
    <Sheet label="user" form onclose={() => to('?tab=users')}>
      <UserForm id={userId} oninvited={(id) => to(`?tab=users&user=${id}`)} />
    </Sheet>
  {:else if making}
    <Sheet label="new" onclose={() => to(tab === 'companies' ? '' : `?tab=${tab}`)}>
      <div class="p-5 pt-12">
        {#if making === 'place'}<PlaceForm onmade={() => to('?tab=places')} />
        {:else if making === 'driver' || making === 'truck' || making === 'trailer'}
          {#key making}<FleetForm
              kind={making}
              onmade={() => {
                to('?tab=fleet');
                void load();
              }}
            />{/key}
        {:else}<CompanyForm
            kind={making === 'carrier' || making === 'vendor' ? making : 'customer'}
            onmade={(c) => to(`?company=${c.id}`)}
          />{/if}
      </div>
    </Sheet>
  {:else if tab === 'fleet' && fleet && (driverId || truckId || trailerId)}
    {@const driver = fleet.drivers.find((d) => d.id === driverId)}
    {@const truck = fleet.trucks.find((t) => t.id === truckId)}
    {@const trailer = fleet.trailers.find((t) => t.id === trailerId)}
    <Sheet label={driver?.name ?? 'fleet'} form onclose={() => to('?tab=fleet')}>
      {#if session.may('fleet.edit') && (driver || truck || trailer)}
        {#key `${driverId} ${truckId} ${trailerId}`}
          <div class="px-5 pt-4 pb-4">
            <FleetForm
              kind={driver ? 'driver' : truck ? 'truck' : 'trailer'}
              {driver}
              {truck}
              {trailer}
              onmade={() => void load()}
            />
          </div>
        {/key}
      {/if}
      {#if driverId && session.may('wages.see')}<PayRates {driverId} />{/if}
    </Sheet>
  {:else if tab === 'places' && place}
    <Sheet label={place.name} wide onclose={() => to('?tab=places')}>
      <div class="px-5 pt-4 pb-8">
        <h2 class="pr-8 text-lg font-bold">{place.name}</h2>
        <p class="text-mute mb-3 text-sm">
          {place.address ? `${place.address}, ` : ''}{place.town}
          {place.region}, in {zoneName(place.zone)} time
        </p>
        {#key place.id}<PlaceDetails {place} onkept={(p) => (place = p)} />{/key}
      </div>
    </Sheet>
  {:else if companyId && view}
    <Sheet label={view.company.name} onclose={() => to(tab === 'everyone' ? '?tab=everyone' : '')}>
      <CompanySheet
        {view}
        onchanged={() => {
          void loadCompany();
          void load();
        }}
      />
    </Sheet>
  {/if}
</div>
