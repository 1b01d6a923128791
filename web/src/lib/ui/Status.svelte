<script lang="ts">
  /** A word whose color shows urgency; the word itself shows it too. */
  let { urgency, children }: { urgency: 'none' | 'soon' | 'now'; children: import('svelte').Snippet } = $props();
  const colours = { none: 'text-ink', soon: 'text-marigold-word font-bold', now: 'text-ember-word font-bold' };
</script>

<span class={colours[urgency]}>{@render children()}</span>
