<script lang="ts">
  import { api, ifMatch, Refused, take, type Money, type Schemas } from '$lib/api/client';
  import CompanyForm from '$lib/companies/CompanyForm.svelte';
  import { findCustomers } from '$lib/companies/find';
  import PlaceForm from '$lib/companies/PlaceForm.svelte';
  import { figure, said, sum } from '$lib/money';
  import { told, wentWrong } from '$lib/state/messages.svelte';
  import type { Local } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Notice from '$ui/Notice.svelte';
  import Part from '$ui/Part.svelte';
  import Picker from '$ui/Picker.svelte';
  import TextField from '$ui/TextField.svelte';
  import WhenField from '$ui/WhenField.svelte';
  import Plus from '@lucide/svelte/icons/plus';
  import X from '@lucide/svelte/icons/x';
  import { chargeWords, equipmentWords } from './words';

  interface Props {
    /** The load to change; a new one when left out. */
    edit?: Schemas['LoadSheetView'] | null;
    onbooked: (id: number) => void;
  }
  let { edit = null, onbooked }: Props = $props();

  type Place = Pick<Schemas['PlaceRow'], 'id' | 'name' | 'town' | 'region' | 'zone'>;
  type Company = Pick<Schemas['CompanyRow'], 'id' | 'name' | 'town'>;
  interface Stop {
    key: number;
    kind: string;
    place: Place | null;
    from: Local | null;
    until: Local | null;
    note: string;
    window: boolean;
  }
  interface Freight {
    key: number;
    description: string;
    pieces: string;
    pallets: string;
    weight: string;
    temperature: string;
  }
  interface Charge {
    key: number;
    kind: string;
    description: string;
    amount: Money | null;
  }
  let keys = 0;
  const newStop = (kind: string): Stop => ({
    key: keys++,
    kind,
    place: null,
    from: null,
    until: null,
    note: '',
    window: false,
  });
  const newFreight = (): Freight => ({
    key: keys++,
    description: '',
    pieces: '',
    pallets: '',
    weight: '',
    temperature: '',
  });

  let customer = $state<Company | null>(null);
  let reference = $state('');
  let equipment = $state('');
  let stops = $state<Stop[]>([newStop('pickup'), newStop('delivery')]);
  let freight = $state<Freight[]>([newFreight()]);
  let charges = $state<Charge[]>([{ key: keys++, kind: 'line_haul', description: '', amount: null }]);
  let instructions = $state('');
  let refused = $state<Refused | null>(null);
  let busy = $state('');
  let making = $state<{ what: 'company' | 'place'; name: string; stop?: number } | null>(null);

  const text = (n: number | null) => (n === null ? '' : String(n));
  $effect(() => {
    if (!edit) return;
    const l = edit.sheet.load;
    customer = l.customerId ? { id: l.customerId, name: l.customer ?? '', town: null } : null;
    reference = l.reference ?? '';
    equipment = l.equipment ?? '';
    instructions = edit.sheet.instructions ?? '';
    stops = l.stops.map((s) => ({
      key: keys++,
      kind: s.kind,
      place: s.placeId
        ? { id: s.placeId, name: s.place ?? '', town: s.town ?? '', region: s.region ?? '', zone: s.zone ?? '' }
        : null,
      from: s.from,
      until: s.until === s.from ? null : s.until,
      window: !!s.until && s.until !== s.from,
      note: s.note ?? '',
    }));
    if (stops.length === 0) stops = [newStop('pickup')];
    if (stops.length === 1) stops.push(newStop('delivery'));
    freight = edit.sheet.freight.map((f) => ({
      key: keys++,
      description: f.description,
      pieces: text(f.pieces),
      pallets: text(f.pallets),
      weight: text(f.weightLb),
      temperature: text(f.temperatureF),
    }));
    if (freight.length === 0) freight = [newFreight()];
    charges = edit.sheet.charges.map((c) => ({
      key: keys++,
      kind: c.kind ?? 'other',
      description: c.description ?? '',
      amount: c.amount,
    }));
    if (charges.length === 0) charges = [{ key: keys++, kind: 'line_haul', description: '', amount: null }];
  });

  const total = $derived(sum(charges.map((c) => c.amount)));
  const drafted = $derived(edit?.sheet.load.state === 'draft');
  const booked = $derived(!!edit && !drafted);
  /** A whole number, null for nothing, or the text itself so that the server's sentence names the field. */
  const whole = (t: string) => (t.trim() === '' ? null : Number(t.replace(/,/g, '')));

  const findPlaces = async (q: string) => take(api.GET('/api/places', { params: { query: { q: q || undefined } } }));

  function localProblems(): Refused | null {
    const problems: Refused['problems'] = [];
    freight.forEach((f, i) => {
      for (const [value, field, name] of [
        [f.pieces, 'pieces', 'Pieces'],
        [f.pallets, 'pallets', 'Pallets'],
        [f.weight, 'weightLb', 'The weight'],
        [f.temperature, 'temperatureF', 'The temperature'],
      ] as const) {
        const n = whole(value);
        if (n !== null && !Number.isInteger(n))
          problems.push({
            code: 'number',
            message: `${name} must be a whole number.`,
            field: `freight[${i}].${field}`,
          });
      }
    });
    return problems.length ? new Refused('Some fields cannot be read.', 422, problems) : null;
  }

  async function send(draft: boolean) {
    refused = localProblems();
    if (refused) return;
    busy = draft ? 'draft' : 'book';
    const body: Schemas['LoadRequest'] = {
      customerId: customer?.id ?? null,
      reference: reference || null,
      equipment: (equipment || null) as Schemas['LoadRequest']['equipment'],
      stops: stops.map((s) => ({
        kind: s.kind as 'pickup' | 'delivery',
        placeId: s.place?.id ?? null,
        from: s.from,
        until: s.window ? s.until : null,
        note: s.note || null,
      })),
      freight: freight.map((f) => ({
        description: f.description || null,
        pieces: whole(f.pieces),
        pallets: whole(f.pallets),
        weightLb: whole(f.weight),
        temperatureF: whole(f.temperature),
      })),
      charges: charges
        .filter((c) => !draft || c.amount)
        .map((c) => ({
          kind: c.kind as Schemas['ChargeRequest']['kind'],
          description: c.description || null,
          amount: c.amount,
        })),
      instructions: instructions || null,
      draft,
    };
    try {
      const done = edit
        ? await take(
            api.PUT('/api/loads/{id}', {
              params: { path: { id: edit.sheet.load.id } },
              body,
              headers: ifMatch(edit.sheet.load.version),
            }),
          )
        : await take(api.POST('/api/loads', { body }));
      const warning = done.warnings.map((w) => w.message).join(' ');
      told(
        `${done.number} ${draft ? 'kept as a draft' : booked ? 'changed' : 'booked'}.${warning ? ` ${warning}` : ''}`,
        draft || booked
          ? undefined
          : () =>
              take(
                api.POST('/api/loads/{id}/cancel', {
                  params: { path: { id: done.id } },
                  body: { why: 'taken back right after booking' },
                }),
              ),
      );
      onbooked(done.id);
    } catch (e) {
      if (e instanceof Refused) {
        refused = e;
        requestAnimationFrame(() => document.querySelector<HTMLElement>('form [aria-invalid="true"]')?.focus());
      } else wentWrong(e);
    } finally {
      busy = '';
    }
  }
  const at = (field: string) => refused?.at(field);
  // A problem that no field shows is shown above the buttons.
  const shown = /^(customerId|reference|equipment|instructions|(stops|freight|charges)\[\d+\]\.\w+)$/;
  const others = $derived((refused?.problems ?? []).filter((p) => !p.field || !shown.test(p.field)));
</script>

<form
  class="pb-6"
  aria-label={edit ? `Change load ${edit.sheet.load.number}` : 'Book a load'}
  onsubmit={(e) => {
    e.preventDefault();
    void send(false);
  }}
>
  <h2 class="px-5 pt-4 pb-3 text-lg font-bold">
    {edit ? `Change ${edit.sheet.load.number}` : 'A new load'}
  </h2>
  <div class="grid grid-cols-6 gap-3 px-5 pb-3">
    <Picker
      class="col-span-3"
      label="Customer"
      required
      bind:value={customer}
      find={findCustomers}
      name={(c) => c.name}
      detail={(c) => c.town ?? ''}
      key={(c) => c.id}
      problem={at('customerId')}
      create={(name) => (making = { what: 'company', name })}
      createWord="New customer"
    />
    <TextField
      class="col-span-2"
      label="Their reference"
      bind:value={reference}
      maxlength={60}
      problem={at('reference')}
    />
    <Choice
      class="col-span-1"
      label="Equipment"
      required
      bind:value={equipment}
      problem={at('equipment')}
      options={[
        { value: '', label: '—' },
        ...Object.entries(equipmentWords).map(([value, label]) => ({ value, label })),
      ]}
    />
    {#if making?.what === 'company'}
      <div class="col-span-6">
        <CompanyForm
          name={making.name}
          kind="customer"
          onmade={(c) => {
            customer = c;
            making = null;
          }}
          oncancel={() => (making = null)}
        />
      </div>
    {/if}
  </div>

  <Part title="Stops">
    {#snippet aside()}<Button small look="quiet" onclick={() => stops.splice(stops.length - 1, 0, newStop('delivery'))}
        ><Plus size={14} />Stop</Button
      >{/snippet}
    <ol class="flex flex-col gap-3">
      {#each stops as stop, i (stop.key)}
        <li class="flex gap-2">
          <svg width="14" class="mt-7 shrink-0" height="14" aria-hidden="true"
            ><circle
              cx="7"
              cy="7"
              r="5"
              fill={stop.place && stop.from ? 'var(--ink)' : 'none'}
              stroke="var(--ink)"
              stroke-width="1.8"
            /></svg
          >
          <div class="grid min-w-0 flex-1 grid-cols-12 gap-x-2 gap-y-1.5">
            <Choice
              class="col-span-3"
              label="Stop {i + 1}"
              bind:value={stop.kind}
              problem={at(`stops[${i}].kind`)}
              options={[
                { value: 'pickup', label: 'Pickup' },
                { value: 'delivery', label: 'Delivery' },
              ]}
            />
            <Picker
              class={stop.window ? 'col-span-3' : 'col-span-5'}
              label="Place"
              required
              bind:value={stop.place}
              find={findPlaces}
              name={(p) => p.name}
              detail={(p) => `${p.town} ${p.region}`}
              key={(p) => p.id}
              problem={at(`stops[${i}].placeId`)}
              hint={stop.place ? `${stop.place.town} ${stop.place.region}` : undefined}
              create={(name) => (making = { what: 'place', name, stop: i })}
              createWord="New place"
            />
            <WhenField
              class="col-span-3"
              label={stop.window ? 'From' : 'Appointment'}
              required
              bind:value={stop.from}
              zone={stop.place?.zone}
              like={stop.from ?? stops[i - 1]?.from}
              problem={at(`stops[${i}].from`)}
            />
            {#if stop.window}
              <WhenField
                class="col-span-3"
                label="Until"
                bind:value={stop.until}
                zone={stop.place?.zone}
                like={stop.from}
                problem={at(`stops[${i}].until`)}
              />
            {/if}
            <div class="col-span-1 flex items-center pt-4 {stop.window ? 'hidden' : ''}">
              {#if stops.length > 2}<button
                  type="button"
                  class="text-mute hover:bg-faint rounded p-1"
                  aria-label="Remove stop {i + 1}"
                  title="Remove stop {i + 1}"
                  onclick={() => stops.splice(i, 1)}><X size={16} /></button
                >{/if}
            </div>
            <div class="col-span-12 -mt-1 flex gap-3">
              <button
                type="button"
                class="text-lark text-sm hover:underline"
                onclick={() => {
                  stop.window = !stop.window;
                  if (!stop.window) stop.until = null;
                }}>{stop.window ? 'One time' : 'A window'}</button
              >
              <input
                class="text-mute focus:text-ink min-w-0 flex-1 border-b border-transparent bg-transparent text-sm focus:border-(--lark) focus:outline-none"
                placeholder="note for this stop"
                aria-label="Note for stop {i + 1}"
                bind:value={stop.note}
                maxlength="1000"
              />
            </div>
            {#if making?.what === 'place' && making.stop === i}
              <div class="col-span-12">
                <PlaceForm
                  name={making.name}
                  onmade={(p) => {
                    stop.place = p;
                    making = null;
                  }}
                  oncancel={() => (making = null)}
                />
              </div>
            {/if}
          </div>
        </li>
      {/each}
    </ol>
  </Part>

  <Part title="Freight">
    {#snippet aside()}<Button small look="quiet" onclick={() => freight.push(newFreight())}
        ><Plus size={14} />Line</Button
      >{/snippet}
    {#each freight as f, i (f.key)}
      <div class="mb-2 grid grid-cols-12 gap-2">
        <TextField
          class="col-span-5"
          label="What it is"
          required
          bind:value={f.description}
          maxlength={200}
          problem={at(`freight[${i}].description`)}
        />
        <TextField
          class="col-span-2"
          label="Pallets"
          inputmode="numeric"
          bind:value={f.pallets}
          problem={at(`freight[${i}].pallets`)}
        />
        <TextField
          class="col-span-3"
          label="Weight, lb"
          inputmode="numeric"
          bind:value={f.weight}
          problem={at(`freight[${i}].weightLb`)}
        />
        <TextField
          class="col-span-2"
          label="°F"
          inputmode="numeric"
          bind:value={f.temperature}
          problem={at(`freight[${i}].temperatureF`)}
        />
      </div>
    {/each}
  </Part>

  <Part title="Money">
    {#snippet aside()}<Button
        small
        look="quiet"
        onclick={() => charges.push({ key: keys++, kind: 'fuel_surcharge', description: '', amount: null })}
        ><Plus size={14} />Charge</Button
      >{/snippet}
    {#each charges as charge, i (charge.key)}
      <div class="mb-2 grid grid-cols-12 items-start gap-2">
        {#if i === 0}
          <p class="col-span-4 pt-7 font-bold">Line haul</p>
        {:else}
          <Choice
            class="col-span-4"
            label="For"
            bind:value={charge.kind}
            problem={at(`charges[${i}].kind`)}
            options={Object.entries(chargeWords).map(([value, label]) => ({ value, label }))}
          />
        {/if}
        <TextField
          class="col-span-4"
          label="Words"
          bind:value={charge.description}
          maxlength={200}
          problem={at(`charges[${i}].description`)}
        />
        <MoneyField
          class="col-span-3"
          label="Amount, USD"
          required={i === 0}
          bind:value={charge.amount}
          problem={at(`charges[${i}].amount`)}
        />
        {#if i > 0}<button
            type="button"
            class="text-mute hover:bg-faint mt-7 w-fit rounded p-1"
            aria-label="Remove this charge"
            title="Remove this charge"
            onclick={() => charges.splice(i, 1)}><X size={16} /></button
          >{/if}
      </div>
    {/each}
    <p class="flex justify-between pr-[8.5%]">
      <b>The customer pays</b><span class="fig font-bold">{figure(total)}</span>
    </p>
  </Part>

  <Part title="Instructions">
    <TextField
      label="For who carries it"
      bind:value={instructions}
      lines={2}
      maxlength={4000}
      problem={at('instructions')}
    />
  </Part>

  <div class="bg-panel border-line sticky bottom-0 mt-2 flex flex-col gap-2 border-t px-5 pt-3">
    {#if others.length > 0}
      <Notice title="Not yet"
        >{#each others as p (p.message)}<p>{p.message}</p>{/each}</Notice
      >
    {:else if refused}
      <p class="text-ember-word text-sm" role="alert">
        {refused.problems.length === 1 ? 'One field needs' : `${refused.problems.length} fields need`} a look.
      </p>
    {/if}
    <div class="flex gap-2">
      <Button look="main" type="submit" busy={busy === 'book'}
        >{booked
          ? `Change ${edit!.sheet.load.number}`
          : total.amount === '0.00'
            ? 'Book it'
            : `Book it for ${said(total)}`}</Button
      >
      {#if !booked}<Button busy={busy === 'draft'} onclick={() => send(true)}>Keep as a draft</Button>{/if}
    </div>
  </div>
</form>
