<script lang="ts">
  import { session } from '../state/session.svelte';
  import { clockChange, parseWhen, formatLocal, zoneName, type Local } from '../time/when';
  import CalendarButton from './CalendarButton.svelte';
  import Field from './Field.svelte';
  import { box } from './box';

  interface Props {
    label: string;
    /** A wall-clock time at the place. */
    value: Local | null;
    /** The place's zone; the reader's when omitted. */
    zone?: string | null;
    /** The default date or time for partial input. */
    like?: Local | null;
    problem?: string;
    required?: boolean;
    class?: string;
  }
  let { label, value = $bindable(), zone = null, like = null, problem, required, class: more = '' }: Props = $props();
  let typed = $state('');
  let here = $state(false);
  const now = $derived(session.wallClock(zone ?? session.zone));
  $effect(() => {
    if (!here && value !== parseWhen(typed, now, like)) typed = formatLocal(value);
  });
  const unread = $derived(typed.trim() !== '' && value === null);
  const change = $derived(value ? clockChange(value, zone ?? session.zone) : null);
  const foreign = $derived(zone && zone !== session.zone ? zoneName(zone) : '');
</script>

<Field
  {label}
  {required}
  class={more}
  problem={unread && !here ? 'Enter a time such as 1430, tue 14:30 or +2d 0800.' : problem}
  hint={here && value ? `${formatLocal(value)} ${foreign}` : foreign ? `${foreign} time` : undefined}
  note={change}
>
  {#snippet children({ id, describedBy, invalid })}
    <div class="relative">
      <input
        {id}
        class="{box} h-9 w-full pr-8!"
        autocomplete="off"
        placeholder="tue 14:30"
        aria-describedby={describedBy}
        aria-invalid={invalid}
        aria-required={!!required}
        bind:value={typed}
        onfocus={(e) => {
          here = true;
          e.currentTarget.select();
        }}
        oninput={() => (value = parseWhen(typed, now, like))}
        onblur={(e) => {
          // The hint goes a moment later, so that the button being clicked does not move away.
          const field = e.currentTarget;
          setTimeout(() => (here = document.activeElement === field), 250);
          if (value) typed = formatLocal(value);
        }}
      />
      <CalendarButton
        {label}
        day={value?.slice(0, 10) ?? null}
        onpick={(day) => {
          value = `${day}T${(value ?? like ?? 'xxxx-xx-xxT08:00:00').slice(11)}`;
          typed = formatLocal(value);
        }}
      />
    </div>
  {/snippet}
</Field>
