<script lang="ts" generics="T">
  import { Combobox } from 'bits-ui';
  import { untrack } from 'svelte';
  import Field from './Field.svelte';
  import { box } from './box';

  interface Props {
    label: string;
    /** The selection, or null. */
    value: T | null;
    /** Searches while typing. */
    find: (typed: string) => Promise<T[]>;
    name: (thing: T) => string;
    detail?: (thing: T) => string;
    key: (thing: T) => number;
    /** Offers to create a new record from what was typed. */
    create?: (typed: string) => void;
    createLabel?: string;
    problem?: string;
    hint?: string;
    required?: boolean;
    class?: string;
    placeholder?: string;
    onchosen?: (thing: T | null) => void;
  }
  let {
    label,
    value = $bindable(),
    find,
    name,
    detail,
    key,
    create,
    createLabel = 'Create',
    problem,
    hint,
    required,
    class: more = '',
    placeholder,
    onchosen,
  }: Props = $props();

  let typed = $state('');
  let found = $state<T[]>([]);
  /** The query `found` belongs to: creating is offered only when we know there is no match. */
  let foundFor = $state('');
  let open = $state(false);
  /** Whether the arrow keys were used: then the highlighted option counts. */
  let moved = $state(false);
  /** Enter was pressed before the results for the current input arrived. */
  let waiting = false;
  let input: HTMLInputElement | null = null;
  let asked = 0;
  let timer: ReturnType<typeof setTimeout>;

  function look(text: string, wait = 90) {
    clearTimeout(timer);
    const turn = ++asked;
    timer = setTimeout(async () => {
      const things = await find(text.trim()).catch(() => []);
      if (turn !== asked) return;
      found = things;
      foundFor = text.trim();
      moved = false;
      if (waiting) {
        waiting = false;
        takeFirst();
        // The form goes to its next field now, as after an Enter without waiting.
        input?.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true, cancelable: true }));
      }
    }, wait);
  }
  $effect(() => {
    const text = value === null ? '' : name(value);
    untrack(() => {
      if (value !== null || !open) typed = text;
    });
  });
  function choose(word: string) {
    if (word === 'create') {
      const text = typed.trim();
      open = false;
      create?.(text);
      return;
    }
    const thing = found.find((f) => String(key(f)) === word) ?? null;
    if (thing) {
      value = thing;
      typed = name(thing);
      onchosen?.(thing);
    }
  }
  /** Nothing is selected from results of an earlier input. */
  const fresh = $derived(foundFor === typed.trim());
  const rank = (thing: T) => {
    const [a, b] = [name(thing).toLowerCase(), typed.trim().toLowerCase()];
    return b === '' || a === b ? 0 : a.startsWith(b) ? 1 : a.split(/[^a-z0-9]+/).some((w) => w.startsWith(b)) ? 2 : 3;
  };
  const offersCreate = $derived(
    !!create &&
      typed.trim().length > 1 &&
      fresh &&
      !found.some((f) => name(f).toLowerCase() === typed.trim().toLowerCase()),
  );
  /** Exact matches, then prefixes; creating comes before merely similar matches. */
  const strong = $derived(found.filter((f) => rank(f) < 3).sort((a, b) => rank(a) - rank(b)));
  const similar = $derived(found.filter((f) => rank(f) === 3));
  const first = $derived(
    strong[0] ? String(key(strong[0])) : offersCreate ? 'create' : similar[0] ? String(key(similar[0])) : null,
  );

  function takeFirst() {
    if (first === null) return;
    open = false;
    choose(first);
  }
  function keydown(e: KeyboardEvent) {
    if (e.key === 'ArrowDown' || e.key === 'ArrowUp') moved = true;
    else if (e.key.length === 1 || ['Backspace', 'Delete', 'Escape'].includes(e.key)) waiting = false;
    if (e.key !== 'Enter' || e.ctrlKey || e.metaKey || !open || typed.trim() === '' || value !== null) return;
    if (moved && fresh) return;
    e.preventDefault();
    if (fresh) takeFirst();
    else {
      waiting = true;
      input = e.target as HTMLInputElement;
    }
  }
</script>

{#snippet things(list: T[])}
  {#each list as thing (key(thing))}
    <Combobox.Item
      value={String(key(thing))}
      label={name(thing)}
      class="flex cursor-pointer items-baseline justify-between gap-3 px-3 py-1.5 {moved || first !== String(key(thing))
        ? 'data-highlighted:bg-lark-tint'
        : 'bg-lark-tint'}"
    >
      <span class="truncate font-bold">{name(thing)}</span>
      {#if detail}<span class="text-mute shrink-0 text-sm">{detail(thing)}</span>{/if}
    </Combobox.Item>
  {/each}
{/snippet}

<Field {label} {problem} {hint} {required} touch={value} class={more}>
  {#snippet children({ id, describedBy, invalid })}
    <Combobox.Root
      type="single"
      bind:open
      value={value === null ? '' : String(key(value))}
      onValueChange={choose}
      inputValue={typed}
    >
      <Combobox.Input
        {id}
        {placeholder}
        class="{box} h-9"
        autocomplete="off"
        aria-describedby={describedBy}
        aria-invalid={invalid}
        aria-required={!!required}
        onkeydown={keydown}
        onfocus={(e) => {
          (e.currentTarget as HTMLInputElement).select();
          look('', 0);
        }}
        oninput={(e) => {
          typed = e.currentTarget.value;
          open = true;
          moved = false;
          if (value !== null && typed !== name(value)) {
            value = null;
            onchosen?.(null);
          }
          look(typed);
        }}
        onblur={() => {
          if (value !== null) typed = name(value);
        }}
      />
      <Combobox.Portal>
        <Combobox.Content
          class="border-line bg-panel z-50 max-h-80 w-[var(--bits-combobox-anchor-width)] min-w-72 overflow-y-auto rounded-md border py-1 shadow-lg"
          sideOffset={4}
        >
          {@render things(strong)}
          {#if offersCreate}
            <Combobox.Item
              value="create"
              label={typed}
              class="border-faint text-lark cursor-pointer border-t px-3 py-1.5 font-bold {moved || first !== 'create'
                ? 'data-highlighted:bg-lark-tint'
                : 'bg-lark-tint'}"
            >
              {createLabel} “{typed.trim()}”
            </Combobox.Item>
          {:else if found.length === 0}
            <p class="text-mute px-3 py-1.5 text-sm">No match. Type a few letters of the name or town.</p>
          {/if}
          {@render things(similar)}
        </Combobox.Content>
      </Combobox.Portal>
    </Combobox.Root>
  {/snippet}
</Field>
