<script lang="ts">
  import type { Snippet } from 'svelte';

  interface Props {
    title: string;
    /** The room's tabs. */
    tabs?: { id: string; label: string; count?: string | number }[];
    tab?: string;
    ontab?: (id: string) => void;
    children?: Snippet;
  }
  let { title, tabs = [], tab, ontab, children }: Props = $props();
</script>

<header class="flex flex-wrap items-end justify-between gap-x-4 gap-y-2 pt-4 pr-4 pl-5">
  <div class="flex min-w-0 items-baseline gap-4">
    <h1 class="text-xl font-bold">{title}</h1>
    {#if tabs.length > 0}
      <nav class="flex flex-wrap gap-x-4 gap-y-1" aria-label="{title}, views">
        {#each tabs as t (t.id)}
          <button
            type="button"
            class="border-b-2 whitespace-nowrap {t.id === tab
              ? 'border-lark font-bold'
              : 'text-mute hover:text-ink border-transparent'}"
            aria-current={t.id === tab}
            onclick={() => ontab?.(t.id)}
            >{t.label}{#if t.count !== undefined}<span class="fig text-mute ml-1.5 font-normal">{t.count}</span
              >{/if}</button
          >
        {/each}
      </nav>
    {/if}
  </div>
  <div class="ml-auto flex items-center gap-2">{@render children?.()}</div>
</header>
