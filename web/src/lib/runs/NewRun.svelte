<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { api, Refused, take, type Schemas } from '$lib/api/client';
  import PlaceField from '$lib/map/PlaceField.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import Notice from '$ui/Notice.svelte';
  import TextField from '$ui/TextField.svelte';
  import AddressLines from './AddressLines.svelte';
  import { minutes } from './clock';

  /** A list of addresses, corrected line by line, and planning options. */
  let { onmade }: { onmade: (plan: Schemas['RunPlanView']) => void } = $props();
  let text = $state('');
  let list = $state<Schemas['AddressList'] | null>(null);
  let refused = $state<Refused | null>(null);
  let busy = $state('');
  let name = $state('');
  let start = $state<Schemas['Candidate'] | null>(null);
  let round = $state(true);
  let from = $state('07:00');
  let shift = $state('11');
  let share = $state('any');
  let drivers = $state('1');
  let aim = $state('miles');
  let capacity = $state('');

  const draft = new Draft(
    () => 'run plan',
    () => ({ text, list, name, start, round, from, shift, share, drivers, aim, capacity }),
    (v) => ({ text, list, name, start, round, from, shift, share, drivers, aim, capacity } = v),
  );

  async function read(act: () => Promise<Schemas['AddressList']>) {
    busy = 'read';
    refused = null;
    try {
      list = await act();
    } catch (e) {
      if (e instanceof Refused) refused = e;
      else showError(e);
    } finally {
      busy = '';
    }
  }
  const pasted = () => read(() => take(api.POST('/api/addresses/text', { body: { text } })));
  async function sent(e: Event) {
    const file = (e.target as HTMLInputElement).files?.[0];
    if (!file) return;
    await read(async () =>
      take(
        api.POST('/api/addresses', {
          body: (await file.arrayBuffer()) as unknown as string,
          bodySerializer: (b) => b as unknown as Blob,
          headers: { 'Content-Type': 'application/octet-stream' },
        }),
      ),
    );
  }
  async function plan() {
    busy = 'plan';
    refused = null;
    try {
      const n = Number(drivers);
      const made = await take(
        api.POST('/api/runs', {
          body: {
            name: name || null,
            start: start && {
              label: start.label,
              latitude: start.point.latitude!,
              longitude: start.point.longitude!,
            },
            roundTrip: round && !!start,
            from: minutes(from) ?? -1,
            shift: shift.trim() ? Number(shift) * 60 : null,
            share: share as Schemas['RunShare'],
            drivers: share === 'fewest' ? null : Number.isInteger(n) ? n : 0,
            objective: aim as Schemas['RunObjective'],
            capacity: capacity.trim() ? Number(capacity) : null,
            stops: list!.lines.map((l) => ({
              name: l.name,
              at: l.choices[0] && {
                label: l.choices[0].label,
                latitude: l.choices[0].point.latitude!,
                longitude: l.choices[0].point.longitude!,
              },
              service: l.service ?? 0,
              opens: l.opens,
              closes: l.closes,
              demand: l.demand ?? 0,
              done: false,
              locked: false,
            })),
          },
        }),
      );
      draft.done();
      onmade(made);
    } catch (e) {
      if (e instanceof Refused) refused = e;
      else showError(e);
    } finally {
      busy = '';
    }
  }
  const ready = $derived(!!list && list.lines.length > 0 && list.doubtful + list.notFound === 0);
  const example =
    'Snowberry Creamery; Great Falls MT; 20 min; 08:00-12:00\nMillwork shop; Helena MT; 15 min\nDoor store; 59701; 10 min; 9-15';
</script>

<div class="flex flex-col gap-3 px-5 pt-3 pb-6">
  <DraftNotice {draft} />
  {#if !list}
    <label class="flex flex-col gap-1"
      ><span class="text-mute text-sm">Stops, one per line: name, address, service minutes, window</span>
      <textarea
        class="border-line bg-panel min-h-52 rounded-md border p-2.5"
        bind:value={text}
        placeholder={example}
        onkeydown={(e) => {
          if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) void pasted();
        }}></textarea></label
    >
    <div class="flex items-center gap-3">
      <Button look="main" busy={busy === 'read'} disabled={!text.trim()} onclick={pasted}>Look up addresses</Button>
      <label class="text-lark cursor-pointer font-bold hover:underline"
        >or upload CSV or XLSX<input class="sr-only" type="file" accept=".csv,.txt,.tsv,.xlsx" onchange={sent} /></label
      >
    </div>
  {:else}
    <AddressLines bind:list />
    <div class="grid grid-cols-6 gap-3">
      <TextField
        class="col-span-2"
        label="Name"
        bind:value={name}
        maxlength={120}
        problem={refused?.at('name')}
        placeholder="Helena deliveries"
      />
      <PlaceField
        class="col-span-4"
        label="Terminal"
        bind:value={start}
        problem={refused?.at('start')}
        placeholder="none: start at the first stop"
      />
      <Choice
        class="col-span-2"
        label="Drivers"
        bind:value={share}
        options={[
          { value: 'any', label: 'up to, shortest' },
          { value: 'fewest', label: 'as few as possible' },
          { value: 'even', label: 'evenly shared' },
        ]}
      />
      <TextField
        class="col-span-1"
        label="Number"
        inputmode="numeric"
        bind:value={drivers}
        disabled={share === 'fewest'}
        problem={refused?.at('drivers')}
      />
      <TextField
        class="col-span-1"
        label="From"
        bind:value={from}
        problem={minutes(from) === null ? 'A time, such as 07:00.' : refused?.at('from')}
      />
      <TextField
        class="col-span-1"
        label="Shift, h"
        inputmode="decimal"
        bind:value={shift}
        problem={refused?.at('shift')}
      />
      <TextField
        class="col-span-1"
        label="Truck capacity"
        inputmode="numeric"
        bind:value={capacity}
        problem={refused?.at('capacity')}
      />
      <Choice
        class="col-span-2"
        label="Minimize"
        bind:value={aim}
        options={[
          { value: 'miles', label: 'miles' },
          { value: 'minutes', label: 'driving time' },
        ]}
      />
      <label class="col-span-4 flex items-end gap-2 pb-2"
        ><input type="checkbox" bind:checked={round} disabled={!start} />Return to the terminal</label
      >
    </div>
    <div class="flex items-center gap-3">
      <Button look="main" busy={busy === 'plan'} disabled={!ready} onclick={plan}>Plan {list.lines.length} stops</Button
      >
      {#if !ready}<span class="text-mute text-sm">Correct the lines above first, or skip them.</span>{/if}
    </div>
  {/if}
  {#if refused}<Notice title="Cannot save yet"
      >{#each refused.problems.slice(0, 8) as p (p.message)}<p>{p.message}</p>{/each}</Notice
    >{/if}
</div>
