<script lang="ts">
  import type { Money, Schemas } from '$lib/api/client';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import type { Local } from '$lib/time/when';
  import AxisHead from '$ui/AxisHead.svelte';
  import AxisLines from '$ui/AxisLines.svelte';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import DateField from '$ui/DateField.svelte';
  import Head from '$ui/Head.svelte';
  import Key from '$ui/Key.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Notice from '$ui/Notice.svelte';
  import Picker from '$ui/Picker.svelte';
  import Slate from '$ui/Slate.svelte';
  import Stopline from '$ui/Stopline.svelte';
  import TextField from '$ui/TextField.svelte';
  import WhenField from '$ui/WhenField.svelte';
  import Status from '$ui/Status.svelte';
  import DayLine from '$lib/billing/DayLine.svelte';
  import type { Axis } from '$ui/axis';
  import { takesFocus } from '$ui/forms';

  const HOUR = 3_600_000;
  let text = $state('Northgate Cold Storage');
  let amount = $state<Money | null>({ amount: '1850.00', currency: 'USD' });
  let when = $state<Local | null>(null);
  let choice = $state('van');
  let town = $state<{ id: number; name: string } | null>(null);
  let chosen = $state<number | null>(2);
  let payee = $state('');
  let paid = $state<Money | null>(null);
  let paidOn = $state('');
  let wrong = $state('');
  let note = $state('');
  let inner = $state(false);
  let submitted = $state('');
  const towns = ['Missoula', 'Moses Lake', 'Minot', 'Miles City'].map((name, i) => ({ id: i + 1, name }));
  const axis = $derived<Axis>({ from: session.now - 12 * HOUR, until: session.now + 36 * HOUR, width: 520 });
  const iso = (h: number) => new Date(session.now + h * HOUR).toISOString();

  /** A made-up load, to show every form of the stopline. */
  function sample(
    pickup: number,
    delivery: number,
    expected: number,
    outlook: Schemas['VisitView']['outlook'],
    left: boolean,
    who: string | null,
    transfer?: number,
  ) {
    const stop = (id: number, kind: 'pickup' | 'delivery', h: number, done: boolean) =>
      ({
        id,
        kind,
        seq: id,
        town: kind === 'pickup' ? 'Missoula' : 'Spokane',
        fromAt: iso(h),
        untilAt: iso(h),
        leftAt: done ? iso(h) : null,
        deliveredAt: null,
      }) as Schemas['StopRow'];
    const load = {
      who,
      stops: [stop(1, 'pickup', pickup, left), stop(2, 'delivery', delivery, false)],
      transfers: transfer ? [{ id: 1, town: 'Butte', plannedAt: iso(transfer) }] : [],
    } as unknown as Schemas['LoadRow'];
    const visit = (stopId: number, at: number, s: Schemas['VisitView']['outlook'], done: boolean) =>
      ({
        stopId,
        arrives: iso(at),
        leaves: iso(at + 1),
        late: 0,
        slack: null,
        outlook: s,
        done,
      }) as Schemas['VisitView'];
    return { load, visits: [visit(1, pickup, 'on_time', left), visit(2, expected, outlook, false)] };
  }
  const shapes = $derived([
    { name: 'Not covered: dotted', ...sample(6, 22, 22, 'on_time', false, null) },
    { name: 'Covered: solid, hollow pegs', ...sample(3, 18, 17, 'on_time', false, 'M. Okafor') },
    { name: 'Rolling: thick behind the truck', ...sample(-6, 12, 9, 'on_time', true, 'M. Okafor') },
    { name: 'Split: a square where trucks change', ...sample(-6, 20, 19, 'on_time', true, 'M. Okafor', 6) },
    { name: 'Tight: marigold', ...sample(-6, 8, 7.4, 'tight', true, 'M. Okafor') },
    { name: 'Late: ember from due to estimated arrival', ...sample(-8, 4, 8, 'late', true, 'M. Okafor') },
    { name: 'No update', ...sample(-9, 14, -3, 'no_update', true, 'Two Forks') },
  ]);
  const day = (n: number) => new Date(session.now + n * 24 * HOUR).toISOString().slice(0, 10);
  const days = $derived<Axis>({ from: session.now - 40 * 24 * HOUR, until: session.now + 30 * 24 * HOUR, width: 520 });
  const colours = [
    'ink',
    'mute',
    'lark',
    'ember',
    'marigold',
    'moss',
    'line',
    'faint',
    'lark-tint',
    'ember-tint',
    'marigold-tint',
  ];
</script>

<svelte:head><title>Parts · Steady Lark</title></svelte:head>
<div class="h-full overflow-y-auto pb-16">
  <Head title="Parts" />
  {#if !session.current?.demo}
    <p class="px-5 py-4">This page is part of the demo only.</p>
  {:else}
    <div class="grid max-w-5xl grid-cols-2 gap-x-10 gap-y-8 px-5 pt-4">
      <section>
        <h2 class="mb-2 font-bold">Buttons</h2>
        <div class="flex flex-wrap gap-2">
          <Button look="main" onclick={() => showDone('Covered with Two Forks for $1,850.', () => Promise.resolve())}
            >Cover with Two Forks for $1,850</Button
          >
          <Button>Tell customer</Button>
          <Button look="quiet">Cancel</Button>
          <Button look="main" busy>Busy</Button>
          <Button disabled>Not now</Button>
          <Button small>Small</Button>
          <Key>n</Key>
        </div>
        <h2 class="mt-6 mb-2 font-bold">Status and notices</h2>
        <p class="flex gap-6">
          <Status urgency="now">1 h 40 late</Status><Status urgency="soon">35 min slack</Status><Status urgency="none"
            >next in 3 h 10</Status
          >
          <span class="text-moss-word font-bold">paid</span>
        </p>
        <div class="mt-3 flex flex-col gap-2">
          <Notice title="Spokane will be 1 h 40 late">ETA 16:40, due by 15:00.</Notice>
          <Notice urgency="soon" title="Not ready to bill">Load 2017 has no POD yet.</Notice>
        </div>
      </section>
      <section>
        <h2 class="mb-2 font-bold">Fields</h2>
        <div class="grid grid-cols-2 gap-3">
          <TextField label="Place" required bind:value={text} />
          <TextField label="With a problem" value="x" problem="Name is required." />
          <MoneyField label="Pay" bind:value={amount} required />
          <WhenField label="Appointment: try tue 14:30, 2:30p, +2d" bind:value={when} zone="America/Los_Angeles" />
          <Choice
            label="Equipment"
            bind:value={choice}
            options={[
              { value: 'van', label: 'van' },
              { value: 'reefer', label: 'reefer' },
            ]}
          />
          <Picker
            label="Town, with create in place"
            bind:value={town}
            find={(q) => Promise.resolve(towns.filter((t) => t.name.toLowerCase().includes(q.toLowerCase())))}
            name={(t) => t.name}
            key={(t) => t.id}
            create={(name) => {
              town = { id: 99, name };
            }}
          />
        </div>
      </section>
      <section class="col-span-2">
        <h2 class="mb-1 font-bold">Stoplines</h2>
        <div class="grid grid-cols-[280px_520px]"><span></span><AxisHead {axis} /></div>
        <div class="relative w-[800px]">
          <div class="absolute inset-y-0 left-[280px] w-[520px]"><AxisLines {axis} /></div>
          {#each shapes as shape (shape.name)}
            <div class="border-line relative grid grid-cols-[280px_520px] items-center border-b">
              <span class="text-sm">{shape.name}</span><Stopline load={shape.load} visits={shape.visits} {axis} />
            </div>
          {/each}
        </div>
        <h2 class="mt-6 mb-1 font-bold">Money line</h2>
        <div class="relative w-[800px]">
          {#each [{ name: 'Ready to bill', delivered: day(-3), papers: day(-2) }, { name: 'Missing documents', delivered: day(-4) }, { name: 'Billed, not due', delivered: day(-9), billed: day(-8), due: day(20) }, { name: 'Half paid, overdue', delivered: day(-36), billed: day(-35), due: day(-6), paid: day(-9) }] as line (line.name)}
            <div class="border-line grid grid-cols-[280px_520px] items-center border-b">
              <span class="text-sm">{line.name}</span><DayLine axis={days} {...line} />
            </div>
          {/each}
        </div>
      </section>
      <section class="col-span-2">
        <h2 class="mb-2 font-bold">
          Form: Enter moves on or submits, Ctrl Enter submits, Escape cancels the inner part
        </h2>
        <form
          aria-label="Sample form"
          class="flex max-w-3xl flex-wrap items-start gap-3"
          onsubmit={(e) => {
            e.preventDefault();
            wrong = paidOn ? '' : 'Enter the day it was paid.';
            if (paidOn && paid && payee) submitted = `${payee}, ${paid.amount}, ${paidOn}`;
          }}
        >
          <TextField label="Payee" required bind:value={payee} />
          <MoneyField label="Paid" required bind:value={paid} />
          <DateField label="Paid on" required bind:value={paidOn} problem={wrong} />
          <Button type="submit" look="main">Record</Button>
          {#if inner}
            <div data-form class="border-line flex items-end gap-2 rounded border p-2" use:takesFocus>
              <TextField label="Note" bind:value={note} />
              <Button small look="quiet" data-cancel onclick={() => (inner = false)}>Cancel</Button>
              <Button small data-main onclick={() => (submitted = `note ${note}`)}>Add</Button>
            </div>
          {:else}
            <Button onclick={() => (inner = true)}>Add a note</Button>
          {/if}
          <output class="w-full font-bold">{submitted}</output>
        </form>
      </section>
      <section>
        <h2 class="mb-2 font-bold">Slate: with rows, empty, loading</h2>
        <Slate
          label="Sample"
          groups={[
            { title: 'Needs you', urgency: 'now', rows: [1, 2] },
            { title: 'On track', rows: [3] },
          ]}
          key={(n) => n}
          open={chosen}
          onopen={(n) => (chosen = n)}
          empty=""
        >
          {#snippet row(n)}<span class="flex h-11 items-center px-5">Row {n}</span>{/snippet}
        </Slate>
        <Slate
          label="Empty"
          groups={[]}
          key={(n) => String(n)}
          open={null}
          onopen={() => {}}
          empty="Nothing to bill. Delivered loads appear here and are ready once their documents are in."
        >
          {#snippet row()}{/snippet}
        </Slate>
        <Slate label="Loading" groups={[]} key={(n) => String(n)} open={null} onopen={() => {}} empty="" loading>
          {#snippet row()}{/snippet}
        </Slate>
      </section>
      <section>
        <h2 class="mb-2 font-bold">Colors and sizes</h2>
        <div class="grid grid-cols-3 gap-2">
          {#each colours as c (c)}<div class="flex items-center gap-2 text-sm">
              <span class="border-line h-6 w-6 rounded border" style:background-color="var(--{c})"></span>{c}
            </div>{/each}
        </div>
        <p class="mt-3 text-sm">13 small text</p>
        <p>15 body</p>
        <p class="text-lg">19 sheet title</p>
        <p class="text-xl font-bold">26 page title</p>
        <p class="fig">0123456789 1,850.00 −427.39</p>
      </section>
    </div>
  {/if}
</div>
