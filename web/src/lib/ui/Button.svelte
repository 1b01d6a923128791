<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { HTMLButtonAttributes } from 'svelte/elements';

  interface Props extends HTMLButtonAttributes {
    /** The page's primary action is `main`; others are `plain`; `quiet` has no border. */
    look?: 'main' | 'plain' | 'quiet';
    small?: boolean;
    busy?: boolean;
    children: Snippet;
  }
  let { look = 'plain', small = false, busy = false, children, class: more = '', ...rest }: Props = $props();
  const looks = {
    main: 'bg-lark text-lark-on border-lark',
    plain: 'text-lark border-lark bg-transparent hover:bg-lark-tint',
    quiet: 'text-lark border-transparent hover:bg-lark-tint',
  };
</script>

<button
  type="button"
  class="inline-flex max-w-full items-center justify-center gap-2 overflow-hidden rounded-md border font-bold whitespace-nowrap disabled:cursor-default disabled:opacity-55 {looks[
    look
  ]} {small ? 'h-7 px-2.5 text-sm' : 'h-9 px-3'} {more}"
  aria-busy={busy}
  {...rest}
  disabled={rest.disabled || busy}
>
  {@render children()}
</button>
