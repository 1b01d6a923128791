<script lang="ts">
  import type { Schemas } from '$lib/api/client';

  interface Props {
    offered: Schemas['RightInfo'][];
    /** The names of the selected ones. */
    chosen: string[];
    disabled?: boolean;
    problem?: string;
  }
  /** Permissions, grouped. */
  let { offered, chosen = $bindable(), disabled = false, problem }: Props = $props();
  const groups = $derived([...new Set(offered.map((o) => o.group))]);
  function toggle(name: string, on: boolean) {
    chosen = on ? [...chosen, name] : chosen.filter((c) => c !== name);
  }
</script>

<div class="columns-1 gap-6 lg:columns-2">
  {#each groups as group (group)}
    <fieldset class="mb-3 break-inside-avoid" {disabled}>
      <legend class="text-mute mb-0.5 text-sm font-bold">{group}</legend>
      {#each offered.filter((o) => o.group === group) as o (o.name)}
        <label class="flex min-h-7 items-center gap-2">
          <input
            type="checkbox"
            checked={chosen.includes(o.name)}
            onchange={(e) => toggle(o.name, e.currentTarget.checked)}
          />
          <span
            >{o.label}{#if o.sensitive}<span class="text-marigold-word ml-1.5 text-sm">sensitive</span>{/if}</span
          >
        </label>
      {/each}
    </fieldset>
  {/each}
</div>
{#if problem}<p class="text-ember-word text-sm" role="alert">{problem}</p>{/if}
