<script lang="ts">
  let { children }: { children: import('svelte').Snippet } = $props();
</script>

<kbd class="fig border-line bg-panel text-mute rounded border px-1.5 py-0.5 text-[12px] leading-none"
  >{@render children()}</kbd
>
