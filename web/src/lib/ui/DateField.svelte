<script lang="ts">
  import { session } from '../state/session.svelte';
  import { formatDay, parseDay } from '../time/when';
  import CalendarButton from './CalendarButton.svelte';
  import Field from './Field.svelte';
  import { box } from './box';

  interface Props {
    label: string;
    /** A date such as 2026-11-24; empty for none. */
    value: string;
    problem?: string;
    hint?: string;
    required?: boolean;
    class?: string;
  }
  let { label, value = $bindable(), problem, hint, required, class: more = '' }: Props = $props();
  let typed = $state('');
  let editing = $state(false);
  const unread = $derived(typed.trim() !== '' && !value);
  $effect(() => {
    if (!editing && value !== (parseDay(typed, session.today) ?? '')) typed = formatDay(value);
  });
</script>

<Field
  {label}
  {required}
  {hint}
  class={more}
  touch={value}
  problem={unread && !editing ? 'Enter a date such as nov 24, 11/24 or +2d.' : problem}
>
  {#snippet children({ id, describedBy, invalid })}
    <div class="relative">
      <input
        {id}
        class="{box} h-9 w-full pr-8!"
        autocomplete="off"
        placeholder="nov 24"
        aria-describedby={describedBy}
        aria-invalid={invalid}
        aria-required={!!required}
        bind:value={typed}
        onfocus={(e) => {
          editing = true;
          e.currentTarget.select();
        }}
        oninput={() => (value = parseDay(typed, session.today) ?? '')}
        onblur={() => {
          editing = false;
          if (value) typed = formatDay(value);
        }}
      />
      <CalendarButton
        {label}
        day={value || null}
        onpick={(day) => {
          value = day;
          typed = formatDay(day);
        }}
      />
    </div>
  {/snippet}
</Field>
