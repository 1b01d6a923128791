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
  import { clock, minutes } from './clock';

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
  let only = $state('');

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
      only = list.doubtful + list.notFound > 0 ? 'wrong' : '';
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
          bodySerializer: (b) => b as unknown as BodyInit,
          headers: { 'Content-Type': 'application/octet-stream' },
        }),
      ),
    );
  }
  const recount = () => {
    if (!list) return;
    list.found = list.lines.filter((l) => l.found === 'found').length;
    list.doubtful = list.lines.filter((l) => l.found === 'doubtful').length;
    list.notFound = list.lines.filter((l) => l.found === 'not_found').length;
  };
  function choose(line: Schemas['AddressView'], c: Schemas['Candidate']) {
    line.choices = [c];
    line.found = 'found';
    line.why = null;
    recount();
  }
  async function again(line: Schemas['AddressView'], typed: string) {
    if (!typed.trim()) return;
    try {
      const got = await take(api.GET('/api/resolve', { params: { query: { q: typed } } }));
      line.address = typed;
      line.choices = got.candidates;
      line.found =
        got.why === null && got.candidates.length ? 'found' : got.candidates.length ? 'doubtful' : 'not_found';
      line.why = got.why;
      recount();
    } catch (e) {
      showError(e);
    }
  }
  function drop(line: Schemas['AddressView']) {
    list!.lines = list!.lines.filter((l) => l !== line);
    recount();
  }
  const shown = $derived(
    (list?.lines ?? []).filter((l) => (only === 'wrong' ? l.found !== 'found' : true)).slice(0, 300),
  );

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
    <div class="flex flex-wrap items-baseline gap-3">
      <p>
        <b class="fig">{list.found}</b> found,
        <b class="fig {list.doubtful ? 'text-marigold-word' : ''}">{list.doubtful}</b>
        doubtful, <b class="fig {list.notFound ? 'text-ember-word' : ''}">{list.notFound}</b> not found
      </p>
      {#if list.doubtful + list.notFound > 0}<button
          class="text-lark text-sm font-bold hover:underline"
          onclick={() => (only = only === 'wrong' ? '' : 'wrong')}
          >{only === 'wrong' ? 'Show all' : 'Show addresses to correct'}</button
        >{/if}
      <button class="text-lark ml-auto text-sm font-bold hover:underline" onclick={() => (list = null)}
        >Start over</button
      >
    </div>
    <ul class="border-line max-h-[38vh] overflow-y-auto rounded-md border">
      {#each shown as line (line.row)}
        <li class="border-line border-b px-3 py-1.5 text-sm last:border-b-0">
          <div class="flex items-baseline gap-2">
            <span class="fig text-mute w-8 shrink-0 text-right">{line.row}</span>
            <span class="min-w-0 flex-1 truncate"
              ><b>{line.name ?? line.address}</b>{line.name ? ` ${line.address}` : ''}{#if line.found === 'found'}<span
                  class="text-mute">, {line.choices[0].label}</span
                >{/if}</span
            >
            <span class="text-mute fig shrink-0"
              >{line.service ? `${line.service} min` : ''}{line.opens !== null || line.closes !== null
                ? ` ${line.opens !== null ? clock(line.opens) : ''}–${line.closes !== null ? clock(line.closes) : ''}`
                : ''}</span
            >
            <button class="text-mute hover:text-ink" aria-label="Skip line {line.row}" onclick={() => drop(line)}
              >skip</button
            >
          </div>
          {#if line.found !== 'found'}
            <p class="pl-10 {line.found === 'doubtful' ? 'text-marigold-word' : 'text-ember-word'}">{line.why}</p>
            <div class="flex flex-wrap gap-1 pl-10">
              {#each line.choices.slice(0, 6) as c (c.label)}<button
                  class="border-line bg-panel hover:bg-lark-tint rounded-md border px-2 py-0.5"
                  onclick={() => choose(line, c)}>{c.label}</button
                >{/each}
              <input
                class="border-line bg-panel w-56 rounded-md border px-2 py-0.5"
                placeholder="or retype it, Enter"
                aria-label="Retype the address on line {line.row}"
                onkeydown={(e) => {
                  if (e.key === 'Enter') void again(line, (e.target as HTMLInputElement).value);
                }}
              />
            </div>
          {/if}
        </li>
      {/each}
    </ul>
    {#if (list.lines.length > 300 && only !== 'wrong') || shown.length === 300}<p class="text-mute text-sm">
        Showing the first 300 lines.
      </p>{/if}
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
