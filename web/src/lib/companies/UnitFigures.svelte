<script lang="ts">
  import type { Attempt } from '$lib/state/attempt.svelte';
  import TextField from '$ui/TextField.svelte';
  import type { Figures } from './unitFigures';

  /** What a trailer holds and a unit weighs: what loads that share it are checked against. */
  interface Props {
    kind: 'truck' | 'trailer' | 'driver';
    figures: Figures;
    attempt: Attempt;
  }
  let { kind, figures = $bindable(), attempt }: Props = $props();
  const fields = $derived(
    kind === 'trailer'
      ? ([
          ['lengthIn', 'Inside length, in', 2],
          ['widthIn', 'Inside width, in', 2],
          ['heightIn', 'Inside height, in', 2],
          ['payloadLb', 'Payload, lb', 3],
          ['tareLb', 'Empty weight, lb', 3],
        ] as const)
      : ([['tareLb', 'Empty weight, lb', 6]] as const),
  );
  const spans = { 2: 'col-span-2', 3: 'col-span-3', 6: 'col-span-6' };
</script>

{#each fields as [field, label, span] (field)}
  <TextField class={spans[span]} {label} inputmode="numeric" bind:value={figures[field]} problem={attempt.at(field)} />
{/each}
<p class="text-mute col-span-6 text-sm">
  Leave empty to use typical figures. Loads that share a truck are checked against them.
</p>
