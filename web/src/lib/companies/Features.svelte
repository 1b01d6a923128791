<script lang="ts">
  import { api, take } from '$lib/api/client';
  import { showError } from '$lib/state/messages.svelte';

  /** Chooses features of the company's list: what a trailer has, or what a load requires of it. */
  interface Props {
    label: string;
    value: string[];
    problem?: string;
    /** Whether what is around it names it already. */
    quiet?: boolean;
    class?: string;
  }
  let { label, value = $bindable(), problem, quiet = false, class: more = '' }: Props = $props();
  let known = $state<string[]>([]);
  take(api.GET('/api/trailer-features')).then((list) => (known = list.map((f) => f.name)), showError);
  const all = $derived([...known, ...value.filter((v) => !known.includes(v))]);
  const change = (name: string, on: boolean) => (value = all.filter((f) => (f === name ? on : value.includes(f))));
</script>

{#if all.length > 0}
  <fieldset class={more}>
    <legend class={quiet ? 'sr-only' : 'text-mute text-sm'}>{label}</legend>
    <div class="flex flex-wrap gap-x-4 gap-y-1 pt-1">
      {#each all as name (name)}
        <label class="flex items-center gap-1.5 text-sm">
          <input
            type="checkbox"
            checked={value.includes(name)}
            onchange={(e) => change(name, e.currentTarget.checked)}
          />{name}
        </label>
      {/each}
    </div>
    {#if problem}<p class="text-ember-word text-sm" role="alert">{problem}</p>{/if}
  </fieldset>
{/if}
