<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { api, take, type Schemas } from '$lib/api/client';
  import { findTowns } from './find';
  import { workerLabels } from '$lib/paying/workers';
  import { equipmentLabels } from '$lib/loads/labels';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { zoneName } from '$lib/time/when';
  import { options } from '$lib/words';
  import Button from '$ui/Button.svelte';
  import Devices from './Devices.svelte';
  import Features from './Features.svelte';
  import { figuresOf } from './unitFigures';
  import { layoutOf, layoutRequest } from './layout';
  import TrailerLayout from './TrailerLayout.svelte';
  import UnitFigures from './UnitFigures.svelte';
  import { number } from '$lib/loads/form/request';
  import Choice from '$ui/Choice.svelte';
  import Picker from '$ui/Picker.svelte';
  import TextField from '$ui/TextField.svelte';

  /** A driver, truck or trailer of ours: created, edited or deactivated. */
  interface Props {
    kind: 'driver' | 'truck' | 'trailer';
    driver?: Schemas['DriverRow'];
    truck?: Schemas['TruckRow'];
    trailer?: Schemas['TrailerRow'];
    onmade: () => void;
  }
  let { kind, driver, truck, trailer, onmade }: Props = $props();
  // svelte-ignore state_referenced_locally -- where it begins
  let name = $state(driver?.name ?? '');
  // svelte-ignore state_referenced_locally -- where it begins
  let phone = $state(driver?.phone ?? '');
  // svelte-ignore state_referenced_locally -- where it begins
  let email = $state(driver?.email ?? '');
  let home = $state<Schemas['TownRow'] | null>(null);
  // svelte-ignore state_referenced_locally -- where it begins
  let group = $state(driver?.groupId ? String(driver.groupId) : '');
  let groups = $state<Schemas['UnitRow'][]>([]);
  $effect(() => {
    if (kind === 'driver')
      take(api.GET('/api/driver-groups'))
        .then((g) => (groups = g.filter((unit) => unit.active || unit.id === driver?.groupId)))
        .catch(showError);
  });
  // svelte-ignore state_referenced_locally -- where it begins
  let worker = $state<NonNullable<Schemas['DriverRow']['worker']>>(driver?.worker ?? 'employee');
  // svelte-ignore state_referenced_locally -- where it begins
  let unit = $state(truck?.unit ?? trailer?.unit ?? '');
  // svelte-ignore state_referenced_locally -- where it begins
  let make = $state(truck?.make ?? '');
  // svelte-ignore state_referenced_locally -- where it begins
  let equipment = $state<string>(trailer?.equipment ?? 'van');
  // svelte-ignore state_referenced_locally -- where it begins
  let figures = $state(figuresOf(trailer, truck));
  // svelte-ignore state_referenced_locally -- where it begins
  let features = $state([...(trailer?.features ?? [])]);
  // svelte-ignore state_referenced_locally -- where it begins
  let layout = $state(layoutOf(trailer));
  const was = $derived(driver ?? truck ?? trailer);
  const attempt = new Attempt();
  const draft = new Draft(
    () => `${kind} ${driver?.id ?? truck?.id ?? trailer?.id ?? 'new'}`,
    () => ({ name, phone, email, home, unit, make, equipment, group, worker, figures, features, layout }),
    (v) => {
      ({
        name,
        phone,
        email,
        home,
        unit,
        make,
        equipment,
        group = '',
        worker = 'employee',
        figures = figuresOf(trailer, truck),
        features = [...(trailer?.features ?? [])],
        layout = layoutOf(trailer),
      } = v);
    },
  );

  const save = (active: boolean) =>
    attempt.run(async () => {
      const path = was && { params: { path: { id: was.id } } };
      if (kind === 'driver') {
        const body = {
          name,
          shortName: driver?.name === name ? driver.shortName : null,
          phone: phone || null,
          email: email || null,
          homeTownId: home?.id ?? null,
          groupId: Number(group) || null,
          worker,
          active,
        };
        await take(path ? api.PUT('/api/drivers/{id}', { ...path, body }) : api.POST('/api/drivers', { body }));
      } else if (kind === 'truck') {
        const body = { unit, make: make || null, active, tareLb: number(figures.tareLb) };
        await take(path ? api.PUT('/api/trucks/{id}', { ...path, body }) : api.POST('/api/trucks', { body }));
      } else {
        const body = {
          unit,
          equipment: equipment as Schemas['TrailerRow']['equipment'],
          active,
          lengthIn: number(figures.lengthIn),
          widthIn: number(figures.widthIn),
          heightIn: number(figures.heightIn),
          payloadLb: number(figures.payloadLb),
          tareLb: number(figures.tareLb),
          features,
          ...layoutRequest(layout, equipment),
        };
        await take(path ? api.PUT('/api/trailers/{id}', { ...path, body }) : api.POST('/api/trailers', { body }));
      }
      showDone(active ? `${name || unit} saved.` : `${name || unit} deactivated.`);
      draft.done();
      onmade();
    });
</script>

<form
  class="grid grid-cols-6 gap-2"
  aria-label={was ? `Edit ${kind}` : `New ${kind}`}
  onsubmit={(e) => {
    e.preventDefault();
    void save(true);
  }}
>
  <DraftNotice {draft} class="col-span-6" />
  <h2 class="col-span-6 text-lg font-bold">{was ? (driver?.name ?? `${kind} ${unit}`) : `New ${kind}`}</h2>
  {#if kind === 'driver'}
    <TextField class="col-span-6" label="Name" required bind:value={name} problem={attempt.at('name')} maxlength={80} />
    <TextField class="col-span-3" label="Phone" bind:value={phone} problem={attempt.at('phone')} />
    <TextField class="col-span-3" label="Email" bind:value={email} problem={attempt.at('email')} />
    <Picker
      class="col-span-6"
      label="Home town"
      bind:value={home}
      find={findTowns}
      name={(t) => `${t.name} ${t.region}`}
      detail={(t) => zoneName(t.zone)}
      key={(t) => t.id}
      problem={attempt.at('homeTownId')}
      hint={driver?.homeTown && !home ? `now ${driver.homeTown}` : undefined}
    />
    <Choice
      class="col-span-6"
      label="Works as"
      bind:value={worker}
      problem={attempt.at('worker')}
      options={options(workerLabels)}
    />
    {#if groups.length}
      <Choice
        class="col-span-6"
        label="Driver group"
        bind:value={group}
        problem={attempt.at('groupId')}
        options={[{ value: '', label: '—' }, ...groups.map((g) => ({ value: String(g.id), label: g.name }))]}
      />
    {/if}
  {:else}
    <TextField
      class="col-span-2"
      label="Number"
      required
      bind:value={unit}
      problem={attempt.at('unit')}
      maxlength={20}
    />
    {#if kind === 'truck'}<TextField class="col-span-4" label="Make" bind:value={make} problem={attempt.at('make')} />
    {:else}<Choice
        class="col-span-4"
        label="Type"
        bind:value={equipment}
        problem={attempt.at('equipment')}
        options={options(equipmentLabels)}
      />{/if}
    <UnitFigures {kind} bind:figures {attempt} />
    {#if kind === 'trailer'}<Features
        class="col-span-6"
        label="Has"
        bind:value={features}
        problem={attempt.at('features')}
      />
      <TrailerLayout {equipment} bind:layout {attempt} />{/if}
  {/if}
  {#if attempt.at('active')}<p class="text-ember-word col-span-6 text-sm" role="alert">{attempt.at('active')}</p>{/if}
  <div class="col-span-6 flex gap-2">
    <Button look="main" small type="submit" busy={attempt.busy}>{was ? 'Save' : `Add ${kind}`}</Button>
    {#if was}<Button small look="quiet" busy={attempt.busy} onclick={() => save(!was.active)}
        >{was.active ? 'Deactivate' : 'Reactivate'}</Button
      >{/if}
  </div>
</form>

{#if truck}<Devices truckId={truck.id} />{/if}
