<script lang="ts">
  import { Calendar, Popover } from 'bits-ui';
  import { CalendarDate, parseDate, type DateValue } from '@internationalized/date';
  import CalendarDays from '@lucide/svelte/icons/calendar-days';
  import ChevronLeft from '@lucide/svelte/icons/chevron-left';
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
  import { session } from '../state/session.svelte';

  interface Props {
    /** Names the field it belongs to, for screen readers. */
    label: string;
    /** The selected date, such as 2026-11-24, or null. */
    day: string | null;
    onpick: (day: string) => void;
  }
  let { label, day, onpick }: Props = $props();
  let open = $state(false);
  const value = $derived<DateValue | undefined>(day ? parseDate(day) : undefined);
  const today = $derived(parseDate(session.today));

  function pick(picked: DateValue | undefined) {
    if (!picked) return;
    onpick(new CalendarDate(picked.year, picked.month, picked.day).toString());
    open = false;
  }
</script>

<Popover.Root bind:open>
  <Popover.Trigger
    class="text-mute hover:text-ink absolute inset-y-0 right-0 flex w-8 items-center justify-center"
    aria-label="Open calendar"
    tabindex={-1}><CalendarDays size={15} /></Popover.Trigger
  >
  <Popover.Portal>
    <Popover.Content class="border-line bg-panel z-50 rounded-md border p-3 shadow-lg" sideOffset={4} align="end">
      <Calendar.Root
        type="single"
        {value}
        onValueChange={pick}
        placeholder={value ?? today}
        weekdayFormat="short"
        weekStartsOn={0}
        locale="en-US"
        initialFocus
        calendarLabel={label}
      >
        {#snippet children({ months, weekdays })}
          <Calendar.Header class="mb-2 flex items-center justify-between">
            <Calendar.PrevButton class="hover:bg-faint rounded p-1" aria-label="Previous month"
              ><ChevronLeft size={16} /></Calendar.PrevButton
            >
            <Calendar.Heading class="font-bold" />
            <Calendar.NextButton class="hover:bg-faint rounded p-1" aria-label="Next month"
              ><ChevronRight size={16} /></Calendar.NextButton
            >
          </Calendar.Header>
          {#each months as month (month.value)}
            <Calendar.Grid class="border-collapse">
              <Calendar.GridHead>
                <Calendar.GridRow>
                  {#each weekdays as name (name)}
                    <Calendar.HeadCell class="text-mute w-9 text-sm font-normal">{name.slice(0, 2)}</Calendar.HeadCell>
                  {/each}
                </Calendar.GridRow>
              </Calendar.GridHead>
              <Calendar.GridBody>
                {#each month.weeks as week (week)}
                  <Calendar.GridRow>
                    {#each week as date (date.toString())}
                      <Calendar.Cell {date} month={month.value} class="p-0 text-center">
                        <Calendar.Day
                          class="fig hover:bg-faint data-[selected]:bg-lark data-[selected]:text-lark-on data-[outside-month]:text-mute flex size-9 cursor-pointer items-center justify-center rounded data-[today]:font-bold"
                        />
                      </Calendar.Cell>
                    {/each}
                  </Calendar.GridRow>
                {/each}
              </Calendar.GridBody>
            </Calendar.Grid>
          {/each}
        {/snippet}
      </Calendar.Root>
    </Popover.Content>
  </Popover.Portal>
</Popover.Root>
