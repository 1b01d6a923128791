<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { hours } from '$lib/time/when';
  import Check from '@lucide/svelte/icons/check';
  import Lock from '@lucide/svelte/icons/lock';
  import LockOpen from '@lucide/svelte/icons/lock-open';
  import { clock, letter } from './clock';

  /** One stop of a run: when it is reached, and its marks. */
  interface Props {
    plan: Schemas['RunPlanView'];
    run: Schemas['RunPlanView']['runs'][number];
    i: number;
    chosen: boolean;
    name: string;
    may: boolean;
    onchosen: (stop: number) => void;
    onkey: (e: KeyboardEvent) => void;
    onmark: (done?: boolean, locked?: boolean) => unknown;
  }
  let { plan, run: r, i, chosen, name, may, onchosen, onkey, onmark }: Props = $props();
  const s = $derived(r.stops[i]);
  const v = $derived(r.visits[i]);
  const ask = $derived(plan.ask.stops![s]);
  const late = $derived(v && ask.closes !== null && ask.closes !== undefined ? Math.round(v.begins - ask.closes) : 0);
</script>

<li class="border-line flex items-center border-b {chosen ? 'bg-lark-tint' : ''}">
  <button
    type="button"
    data-stop={s}
    class="flex min-w-0 flex-1 items-baseline gap-2 px-1 py-1 text-left text-sm {ask.done ? 'text-mute' : ''}"
    onclick={() => onchosen(s)}
    onfocus={() => onchosen(s)}
    onkeydown={onkey}
    aria-label="{letter(r.driver)}{i + 1} {name}{ask.done ? ', done' : ''}{ask.locked ? ', locked' : ''}"
  >
    <span class="fig w-8 shrink-0 font-bold">{letter(r.driver)}{i + 1}</span>
    <span class="fig w-12 shrink-0 {late > 0 ? 'text-ember-word font-bold' : ''}">{v ? clock(v.begins) : ''}</span>
    <span class="min-w-0 flex-1 truncate"><b>{name}</b>{ask.name ? ` ${ask.at?.label}` : ''}</span>
    <span class="text-mute fig shrink-0"
      >{#if late > 0}<b class="text-ember-word">late {late < 60 ? `${late} min` : hours(late)}</b>&nbsp;·
      {/if}{v && v.begins - v.arrives >= 1 ? `waits ${Math.round(v.begins - v.arrives)} · ` : ''}{ask.closes !== null &&
      ask.closes !== undefined
        ? `by ${clock(ask.closes)} · `
        : ''}{v ? `${v.miles.toFixed(1)} mi` : ''}</span
    >
  </button>
  {#if may}
    <button
      class="text-mute hover:bg-faint rounded p-1"
      title={ask.locked ? 'Unlock (l)' : 'Lock to this driver (l)'}
      aria-label="{ask.locked ? 'Unlock' : 'Lock'} {name}"
      onclick={() => onmark(undefined, !ask.locked)}
      >{#if ask.locked}<Lock size={13} />{:else}<LockOpen size={13} class="opacity-40" />{/if}</button
    >
    <button
      class="hover:bg-faint rounded p-1 {ask.done ? 'text-ink' : 'text-mute'}"
      title={ask.done ? 'Reopen (d)' : 'Mark done with all stops before it (d)'}
      aria-label="{name} {ask.done ? 'not done' : 'done'}"
      onclick={() => onmark(!ask.done, undefined)}><Check size={13} class={ask.done ? '' : 'opacity-40'} /></button
    >
  {/if}
</li>
