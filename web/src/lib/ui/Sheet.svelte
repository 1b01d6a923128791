<script lang="ts">
  import { keepOpener } from './forms';
  import { takesText } from './keys';
  import type { Snippet } from 'svelte';
  import X from '@lucide/svelte/icons/x';

  interface Props {
    label: string;
    onclose?: () => void;
    wide?: boolean;
    /** A form opened on request: its first field has the focus. */
    form?: boolean;
    children: Snippet;
  }
  let { label, onclose, wide = false, form = false, children }: Props = $props();
  let aside = $state<HTMLElement>();
  $effect(() => {
    const giveBack = keepOpener();
    if (form) aside?.querySelector<HTMLElement>('form input, form [data-select-trigger]')?.focus();
    return giveBack;
  });
  function key(e: KeyboardEvent) {
    if (e.key !== 'Escape' || !onclose || e.defaultPrevented) return;
    const target = e.target as HTMLElement;
    // In a field, Escape first leaves the field.
    if (takesText(target)) target.blur();
    else onclose();
  }
</script>

<svelte:window onkeydown={key} />
<aside
  bind:this={aside}
  class="border-line bg-panel relative h-full shrink-0 overflow-y-auto border-l print:hidden {wide
    ? 'w-[580px]'
    : 'w-[424px] 2xl:w-[520px]'}"
  aria-label={label}
>
  {#if onclose}
    <button
      class="text-mute hover:bg-faint absolute top-3 right-3 z-10 rounded-md p-1"
      onclick={onclose}
      aria-label="Close {label}"
      title="Close (Esc)"><X size={18} /></button
    >
  {/if}
  {@render children()}
</aside>
