<script lang="ts">
  import Select from '$ui/Select.svelte';
  import { session } from '$lib/state/session.svelte';
  import { parseDay } from '$lib/time/when';
  import X from '@lucide/svelte/icons/x';
  import { dated, numeric, type Column } from './list';

  interface Props {
    c: Column;
    /** The filter, as a screen reader says it. */
    name: string;
    options: string[];
    /** Whether several values are compared with. */
    many: boolean;
    values: string[];
  }
  let { c, name, options, many, values = $bindable() }: Props = $props();
  let typed = $state('');
  /** Suggestions; any number of days is understood. */
  const periods = [
    'today',
    'yesterday',
    'this week',
    'last week',
    'this month',
    'last month',
    'this quarter',
    'last quarter',
    'year to date',
    'last year',
    'last 30 days',
    'next 7 days',
    'older than 30 days',
  ];

  /** A date in any form is sent as one; a period stays as it is, so that it moves on with the days. */
  const read = (text: string) => (dated(c) ? (parseDay(text, session.today) ?? text) : text).trim();
  function add() {
    const value = read(typed);
    if (!value) return;
    values = many ? [...values.filter((v) => v !== value), value] : [value];
    typed = '';
  }
</script>

<datalist id="periods"
  >{#each periods as period (period)}<option value={period}></option>{/each}</datalist
>
{#if c.kind === 'choice' && options.length > 0}
  <Select
    class="h-8 w-56"
    label="Value of {name}"
    placeholder="any"
    options={options.map((o) => ({ value: o, label: o.replace(/_/g, ' ') }))}
    bind:values
  />
{:else if c.kind === 'yes_no'}
  <Select
    class="h-8 w-24"
    label="Value of {name}"
    options={['yes', 'no'].map((o) => ({ value: o, label: o }))}
    value={values[0] ?? 'yes'}
    onchange={(v: string) => (values = [v])}
  />
{:else}
  <div class="flex max-w-xl flex-wrap items-center gap-1">
    {#each many ? values : [] as value, n (value)}
      <span class="bg-lark-tint inline-flex h-8 items-center gap-1 rounded-md pr-1 pl-2">
        {value}<button
          class="hover:bg-faint rounded p-0.5"
          aria-label="Remove {value} from {name}"
          title="Remove {value}"
          onclick={() => (values = values.filter((_, j) => j !== n))}><X size={13} /></button
        >
      </span>
    {/each}
    <input
      class="border-line bg-panel h-8 w-44 rounded-md border px-2 text-sm"
      aria-label="Value of {name}"
      inputmode={numeric(c) ? 'decimal' : undefined}
      maxlength="400"
      list={dated(c) ? 'periods' : undefined}
      placeholder={dated(c) ? 'last month, Nov 3 …' : many && values.length ? 'or …' : undefined}
      value={many ? typed : (values[0] ?? '')}
      oninput={(e) => {
        if (many) typed = e.currentTarget.value;
      }}
      onkeydown={(e) => {
        if (e.key === 'Enter' && many) {
          e.preventDefault();
          add();
        } else if (e.key === 'Backspace' && many && typed === '') values = values.slice(0, -1);
      }}
      onchange={(e) => {
        if (many) add();
        else values = e.currentTarget.value.trim() ? [read(e.currentTarget.value)] : [];
      }}
    />
  </div>
{/if}
