<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import Field from '$ui/Field.svelte';
  import { box } from '$ui/box';

  /** A place in any common form. Ambiguous input is never resolved silently: the choices are listed below. */
  interface Props {
    label: string;
    value: Schemas['Candidate'] | null;
    problem?: string;
    placeholder?: string;
    required?: boolean;
    class?: string;
    onchosen?: (place: Schemas['Candidate'] | null) => void;
  }
  let {
    label,
    value = $bindable(),
    problem,
    placeholder = 'Butte MT, 59701, or 46.00, -112.53',
    required,
    class: more = '',
    onchosen,
  }: Props = $props();
  let typed = $state('');
  let answer = $state<Schemas['Resolution'] | null>(null);
  let timer: ReturnType<typeof setTimeout>;
  let asked = 0;

  $effect(() => {
    if (value && !typed) typed = value.label;
    if (!value && typed && answer && answer.candidates.some((c) => c.label === typed)) typed = '';
  });
  const sure = (r: Schemas['Resolution']) => (r.why === null && r.candidates.length > 0 ? r.candidates[0] : null);

  async function look() {
    clearTimeout(timer);
    const text = typed.trim();
    const mine = ++asked;
    if (text.length < 2) {
      answer = null;
      choose(null);
      return;
    }
    const got = await take(api.GET('/api/resolve', { params: { query: { q: text } } })).catch(() => null);
    if (mine !== asked || !got) return;
    answer = got;
    choose(sure(got), false);
  }
  function choose(c: Schemas['Candidate'] | null, fill = true) {
    value = c;
    if (c && fill) {
      typed = c.label;
      answer = null;
    }
    onchosen?.(c);
  }
  function input() {
    value = null;
    clearTimeout(timer);
    timer = setTimeout(look, 220);
  }
</script>

<div class={more}>
  <Field {label} {problem} {required} hint={value && value.label !== typed ? value.label : undefined}>
    {#snippet children({ id, describedBy, invalid })}
      <input
        {id}
        class="{box} h-9"
        bind:value={typed}
        {placeholder}
        maxlength={300}
        aria-describedby={describedBy}
        aria-required={required}
        aria-invalid={invalid}
        autocomplete="off"
        oninput={input}
        onkeydown={(e) => {
          if (e.key === 'Enter' && !value) {
            e.preventDefault();
            void look();
          }
        }}
      />
    {/snippet}
  </Field>
  {#if answer?.why}
    <div class="mt-1 text-sm" role="status">
      <p class={answer.candidates.length ? 'text-marigold-word' : 'text-ember-word'}>{answer.why}</p>
      {#if answer.candidates.length}
        <ul class="mt-1 flex flex-wrap gap-1">
          {#each answer.candidates.slice(0, 8) as c (c.label)}
            <li>
              <button
                type="button"
                class="border-line bg-panel hover:bg-lark-tint rounded-md border px-2 py-0.5 {value === c
                  ? 'bg-lark-tint font-bold'
                  : ''}"
                onclick={() => choose(c)}>{c.label}</button
              >
            </li>
          {/each}
        </ul>
      {/if}
    </div>
  {/if}
</div>
