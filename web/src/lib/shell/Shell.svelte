<script lang="ts">
  import { takesText } from '$ui/keys';
  import type { Snippet } from 'svelte';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import Moon from '@lucide/svelte/icons/moon';
  import Sun from '@lucide/svelte/icons/sun';
  import LogOut from '@lucide/svelte/icons/log-out';
  import { session } from '$lib/state/session.svelte';
  import { live } from '$lib/state/live.svelte';
  import { formatLocal, zoneName } from '$lib/time/when';
  import LineBar from '$lib/line/LineBar.svelte';
  import Key from '$ui/Key.svelte';

  let { children }: { children: Snippet } = $props();

  const rooms = $derived(
    [
      {
        path: '/today',
        name: 'Today',
        count: live.counts?.today,
        urgent: live.counts?.todayIsUrgent,
        right: 'loads.see',
      },
      { path: '/book', name: 'Book', count: live.counts?.book, right: 'loads.see' },
      { path: '/cover', name: 'Cover', count: live.counts?.cover, right: 'loads.see' },
      { path: '/plan', name: 'Plan', count: undefined, right: 'loads.see' },
      { path: '/roll', name: 'Roll', count: live.counts?.roll, right: 'loads.see' },
      { path: '/bill', name: 'Bill', count: live.counts?.bill, right: 'billing.see' },
      { path: '/pay', name: 'Pay', count: live.counts?.pay, right: 'paying.see' },
      { path: '/ledger', name: 'Ledger', count: undefined, right: 'ledger.see' },
    ].filter((r) => session.may(r.right)),
  );
  const foot = $derived(
    [
      { path: '/map', name: 'Map', right: 'loads.see' },
      { path: '/runs', name: 'Runs', right: 'loads.see' },
      { path: '/simulator', name: 'Simulator', right: 'outside.use', simulator: true },
      { path: '/setup', name: 'Setup', right: 'companies.see' },
    ].filter((r) => session.may(r.right) && (!r.simulator || session.current?.simulator)),
  );
  let night = $state(document.documentElement.classList.contains('night'));
  let help = $state(false);

  function turn() {
    night = !night;
    document.documentElement.classList.toggle('night', night);
    localStorage.setItem('lark-theme', night ? 'night' : 'day');
  }
  function key(e: KeyboardEvent) {
    if (takesText(e.target) || e.ctrlKey || e.metaKey || e.altKey) return;
    const n = Number(e.key);
    if (n >= 1 && n <= rooms.length) {
      e.preventDefault();
      void goto(rooms[n - 1].path);
    } else if (e.key === '?') help = !help;
    else if (e.key === 'Escape') help = false;
  }
  const here = (path: string) =>
    page.url.pathname.startsWith(path) || (path === '/plan' && page.url.pathname.startsWith('/trip/'));
</script>

<svelte:window onkeydown={key} />
<div class="grid h-dvh grid-cols-[104px_minmax(0,1fr)] grid-rows-[52px_minmax(0,1fr)] print:block print:h-auto">
  <nav class="border-line row-span-2 flex flex-col border-r pt-3 pb-2 print:hidden" aria-label="Rooms">
    <a href="/today" class="mb-2 ml-3.5 block w-fit" aria-label="Steady Lark, today">
      <svg
        viewBox="0 0 34 30"
        width="34"
        height="30"
        fill="none"
        stroke="var(--lark)"
        stroke-width="2.2"
        stroke-linecap="round"
        stroke-linejoin="round"
        aria-hidden="true"
        ><path d="M2 19c6 1 9-2 11-6 2-5 7-8 12-6 2 .8 3 2 3.6 3.5L33 12l-4 2c-1 6-6 9-12 9-4 0-6-2-8-4" /><path
          d="M11 14c3 3 8 3 12-1"
        /><path d="M17 23v4M20 23v4" stroke="var(--ink)" /></svg
      >
    </a>
    {#each rooms as room (room.path)}
      <a
        href={room.path}
        class="relative flex h-9 items-center justify-between pr-3 pl-3.5 {here(room.path)
          ? 'font-bold'
          : 'hover:bg-faint'}"
        aria-current={here(room.path) ? 'page' : undefined}
      >
        {#if here(room.path)}<span class="bg-lark absolute inset-y-1.5 left-0 w-1 rounded-r"></span>{/if}
        {room.name}
        {#if room.count}<span class="fig text-sm {room.urgent ? 'text-ember-word font-bold' : 'text-mute font-normal'}"
            >{room.count}<span class="sr-only"> waiting</span></span
          >{/if}
      </a>
    {/each}
    <div class="mt-auto">
      {#if !live.hearing}<p class="text-marigold-word px-3.5 pb-1 text-sm" role="status">Reconnecting …</p>{/if}
      {#each foot as room (room.path)}
        <a
          href={room.path}
          class="flex h-8 items-center px-3.5 {here(room.path) ? 'font-bold' : 'hover:bg-faint'}"
          aria-current={here(room.path) ? 'page' : undefined}>{room.name}</a
        >
      {/each}
      <div class="flex items-center justify-between pr-1.5 pl-3.5">
        <a
          class="hover:text-lark truncate text-sm hover:underline"
          href="/preferences"
          title="Preferences of {session.current?.name}">{session.current?.name.split(' ')[0]}</a
        >
        <span class="flex">
          <button
            class="hover:bg-faint text-mute rounded p-1"
            onclick={turn}
            title={night ? 'Light theme' : 'Dark theme'}
            aria-label={night ? 'Light theme' : 'Dark theme'}
            >{#if night}<Sun size={15} />{:else}<Moon size={15} />{/if}</button
          >
          <button
            class="hover:bg-faint text-mute rounded p-1"
            onclick={() => session.signOut()}
            title="Sign out"
            aria-label="Sign out"><LogOut size={15} /></button
          >
        </span>
      </div>
    </div>
  </nav>
  <header class="border-line flex items-center gap-4 border-b pr-5 pl-5 print:hidden">
    <LineBar />
    {#if session.clockSet}<span class="text-marigold-word -mr-2 shrink-0 text-sm font-bold" role="note"
        >Clock set to</span
      >{/if}
    <time class="fig text-mute shrink-0 text-sm">{formatLocal(session.wallClock())} {zoneName(session.zone)}</time>
  </header>
  <main class="min-h-0 overflow-hidden print:overflow-visible">{@render children()}</main>
</div>

{#if help}
  <div
    class="border-line bg-panel fixed right-5 bottom-5 z-40 w-[420px] rounded-lg border p-4 shadow-lg"
    role="dialog"
    aria-label="Keyboard shortcuts"
  >
    <p class="mb-2 font-bold">Keyboard shortcuts</p>
    <dl class="grid grid-cols-[auto_1fr] gap-x-4 gap-y-1.5 text-sm">
      <dt><Key>/</Key></dt>
      <dd>The line: type what you hear</dd>
      <dt><Key>1</Key> – <Key>{rooms.length}</Key></dt>
      <dd>Go to a room</dd>
      <dt><Key>↓</Key> <Key>↑</Key> or <Key>j</Key> <Key>k</Key></dt>
      <dd>Open the next or previous row</dd>
      <dt><Key>Esc</Key></dt>
      <dd>Leave the field, then close the sheet</dd>
      <dt><Key>Enter</Key></dt>
      <dd>
        In a form: go to the next required field, or save when none is empty; <Key>Ctrl Enter</Key> saves from any field
      </dd>
      <dt><Key>n</Key></dt>
      <dd>In Book: a new load</dd>
      <dt><Key>x</Key> <Key>b</Key> <Key>B</Key> <Key>p</Key> <Key>m</Key></dt>
      <dd>In Bill: select, bill selected, bill all ready, attach what is missing, record payment</dd>
      <dt><Key>c</Key> <Key>o</Key></dt>
      <dd>On a load: cover with a carrier, with our own truck</dd>
      <dt><Key>m</Key> <Key>w</Key> <Key>x</Key> <Key>y</Key> <Key>u</Key></dt>
      <dd>In Plan: move the trip, change its start, split it, join its legs, unassign it</dd>
      <dt><Key>+</Key> <Key>-</Key> <Key>[</Key> <Key>]</Key></dt>
      <dd>In Plan: show fewer or more days, earlier or later ones</dd>
      <dt><Key>a</Key> <Key>p</Key></dt>
      <dd>On a settlement: approve, pay; on a bill <Key>a</Key> goes to the amount to approve</dd>
      <dt><Key>f</Key></dt>
      <dd>In a list: filter</dd>
      <dt><Key>Space</Key> or <Key>x</Key></dt>
      <dd>In a list: select a row, <Key>Shift ↓</Key> more, <Key>Ctrl a</Key> all</dd>
      <dt><Key>Home</Key> <Key>End</Key></dt>
      <dd>In a list: first and last row</dd>
      <dt><Key>?</Key></dt>
      <dd>Show this list</dd>
    </dl>
  </div>
{/if}
