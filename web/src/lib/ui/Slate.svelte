<script lang="ts" generics="T">
  import type { Snippet } from 'svelte';
  import { isPlain, listStep } from './keys';

  interface Group {
    title: string;
    urgency?: 'none' | 'soon' | 'now';
    /** A word to the right of the title. */
    aside?: string;
    rows: T[];
  }
  interface Props {
    label: string;
    groups: Group[];
    key: (row: T) => number | string;
    open: number | string | null;
    onopen: (row: T) => void;
    row: Snippet<[T]>;
    changed?: (row: T) => boolean;
    aside?: Snippet<[Group]>;
    /** What belongs here and how to start. */
    empty: string;
    loading?: boolean;
    dense?: boolean;
  }
  let {
    label,
    groups,
    key,
    open,
    onopen,
    row,
    changed,
    aside,
    empty,
    loading = false,
    dense = false,
  }: Props = $props();
  const all = $derived(groups.flatMap((g) => g.rows));
  const colours = { none: 'text-ink', soon: 'text-marigold-word', now: 'text-ember-word' };

  function move(e: KeyboardEvent) {
    // The list that has the focus moved by itself.
    if (!isPlain(e) || e.defaultPrevented) return;
    const step = listStep(e);
    if (!step || all.length === 0) return;
    e.preventDefault();
    const at = all.findIndex((r) => key(r) === open);
    const next = all[Math.max(0, Math.min(all.length - 1, at < 0 ? 0 : at + step))];
    onopen(next);
    requestAnimationFrame(() =>
      document.querySelector(`[data-row="${CSS.escape(String(key(next)))}"]`)?.scrollIntoView({ block: 'nearest' }),
    );
  }
</script>

<svelte:window onkeydown={move} />

<div aria-label={label} role="region">
  {#if loading}
    <p class="text-mute px-5 py-6" role="status">Loading …</p>
  {:else if all.length === 0}
    <p class="text-mute max-w-prose px-5 py-6">{empty}</p>
  {:else}
    {#each groups as group (group.title)}
      {#if group.rows.length > 0}
        {#if group.title}
          <div class="relative flex items-end justify-between pt-3 pr-4 pb-1 pl-5">
            <h2 class="text-sm font-bold {colours[group.urgency ?? 'none']}">
              {group.title} <span class="fig text-mute font-normal">{group.rows.length}</span>
            </h2>
            {#if aside}{@render aside(group)}{:else if group.aside}<span class="fig text-mute text-sm"
                >{group.aside}</span
              >{/if}
          </div>
        {/if}
        <ul>
          {#each group.rows as r (key(r))}
            <li class="border-line relative border-b [content-visibility:auto]" class:just-changed={changed?.(r)}>
              <button
                type="button"
                data-row={key(r)}
                class="block w-full text-left {dense ? 'h-[30px]' : 'h-11'} {key(r) === open
                  ? 'bg-lark-tint/80'
                  : 'hover:bg-faint/60'}"
                aria-current={key(r) === open}
                onclick={() => onopen(r)}
              >
                {@render row(r)}
              </button>
            </li>
          {/each}
        </ul>
      {/if}
    {/each}
  {/if}
</div>
