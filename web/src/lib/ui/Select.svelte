<script lang="ts">
  import { Select } from 'bits-ui';
  import Check from '@lucide/svelte/icons/check';
  import ChevronDown from '@lucide/svelte/icons/chevron-down';

  interface Option {
    value: string;
    label: string;
    disabled?: boolean;
  }
  interface Common {
    /** Names it for screen readers, where no label points at it. */
    label?: string;
    id?: string;
    options: Option[];
    placeholder?: string;
    class?: string;
    'aria-describedby'?: string;
    'aria-invalid'?: boolean;
    'aria-required'?: boolean;
  }
  interface Single extends Common {
    value: string;
    values?: undefined;
    onchange?: (value: string) => void;
  }
  interface Multiple extends Common {
    values: string[];
    value?: undefined;
    onchange?: (values: string[]) => void;
  }
  let {
    value = $bindable(),
    values = $bindable(),
    onchange,
    label,
    id,
    options,
    placeholder = '',
    class: more = '',
    ...aria
  }: Single | Multiple = $props();

  const names = $derived(
    (values ?? [value ?? '']).map((v) => options.find((o) => o.value === v)?.label ?? v).filter((n) => n !== ''),
  );
  const empty = $derived(values ? values.length === 0 : !value);
  const style =
    'border-line bg-panel text-ink hover:border-mute focus-visible:border-lark focus-visible:outline-lark inline-flex min-w-0 items-center justify-between gap-1 rounded-md border px-2 text-left focus-visible:outline-2 focus-visible:outline-offset-0 aria-[invalid=true]:border-ember disabled:opacity-60';
</script>

{#snippet inside()}
  <Select.Trigger {id} class="{style} {more}" aria-label={label} data-empty={empty ? '' : undefined} {...aria}>
    <span class="truncate {names.length ? '' : 'text-mute'}">{names.length ? names.join(', ') : placeholder}</span>
    <ChevronDown size={14} class="text-mute shrink-0" />
  </Select.Trigger>
  <Select.Portal>
    <Select.Content
      class="border-line bg-panel z-50 max-h-80 min-w-[var(--bits-select-anchor-width)] overflow-y-auto rounded-md border py-1 text-sm shadow-lg"
      sideOffset={4}
    >
      <Select.Viewport>
        {#each options as option (option.value)}
          <Select.Item
            value={option.value}
            label={option.label}
            disabled={option.disabled}
            class="data-highlighted:bg-lark-tint flex cursor-pointer items-center gap-2 px-2 py-1 data-disabled:opacity-50"
          >
            {#snippet children({ selected })}
              <span class="text-lark w-4 shrink-0"
                >{#if selected}<Check size={14} />{/if}</span
              >{option.label}
            {/snippet}
          </Select.Item>
        {/each}
      </Select.Viewport>
    </Select.Content>
  </Select.Portal>
{/snippet}

{#if values}
  <Select.Root
    type="multiple"
    bind:value={values}
    onValueChange={(v) => (onchange as Multiple['onchange'])?.(v)}
    items={options}>{@render inside()}</Select.Root
  >
{:else}
  <Select.Root
    type="single"
    bind:value
    onValueChange={(v) => (onchange as Single['onchange'])?.(v)}
    items={options}
    allowDeselect={false}>{@render inside()}</Select.Root
  >
{/if}
