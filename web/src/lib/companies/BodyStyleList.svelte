<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { number } from '$lib/loads/form/request';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { box } from '$ui/box';
  import Button from '$ui/Button.svelte';
  import X from '@lucide/svelte/icons/x';

  /** Typical sizes of vehicles by body style, which a load's vehicles start from. */
  type Figure = 'lengthIn' | 'widthIn' | 'heightIn' | 'weightLb';
  type Row = { key: number; name: string } & Record<Figure, string>;
  const columns: [Figure | 'name', string][] = [
    ['name', 'Body style'],
    ['lengthIn', 'Length, in'],
    ['widthIn', 'Width, in'],
    ['heightIn', 'Height, in'],
    ['weightLb', 'Weight, lb'],
  ];
  let rows = $state<Row[]>([]);
  let next = 0;
  const attempt = new Attempt();
  const show = (list: Schemas['BodyStyle'][]) =>
    (rows = list.map((s) => ({
      key: next++,
      name: s.name,
      lengthIn: String(s.lengthIn),
      widthIn: String(s.widthIn),
      heightIn: String(s.heightIn),
      weightLb: String(s.weightLb),
    })));
  take(api.GET('/api/body-styles')).then(show, showError);
  const may = $derived(session.may('setup.edit'));
  const save = () =>
    attempt.run(async () => {
      const styles = rows
        .filter((r) => r.name.trim())
        .map((r) => ({
          name: r.name,
          lengthIn: number(r.lengthIn),
          widthIn: number(r.widthIn),
          heightIn: number(r.heightIn),
          weightLb: number(r.weightLb),
        }));
      show(await take(api.PUT('/api/body-styles', { body: { styles } })));
      showDone('Body styles saved.');
    });
</script>

<form
  class="mt-8 px-5"
  aria-label="Body styles"
  onsubmit={(e) => {
    e.preventDefault();
    void save();
  }}
>
  <h2 class="text-mute mb-1 text-sm font-bold">Body styles</h2>
  <p class="text-mute mb-2 text-sm">Typical sizes of vehicles, for loads that do not say otherwise.</p>
  <table class="text-sm">
    <thead>
      <tr class="text-mute text-left">
        {#each columns as [field, label] (field)}<th
            class="pr-2 pb-1 font-normal {field === 'name' ? '' : 'text-right'}">{label}</th
          >{/each}
        <th><span class="sr-only">Remove</span></th>
      </tr>
    </thead>
    <tbody>
      {#each rows as row, i (row.key)}
        <tr>
          {#each columns as [field, label] (field)}
            <td class="py-0.5 pr-2 {field === 'name' ? 'w-48' : 'fig w-24 text-right'}">
              {#if may}<input
                  class="{box} h-7 {field === 'name' ? '' : 'text-right'}"
                  aria-label="{label}, {row.name || `row ${i + 1}`}"
                  aria-invalid={!!attempt.at(`styles[${i}].${field}`)}
                  autocomplete="off"
                  bind:value={row[field]}
                />{:else}{row[field]}{/if}
            </td>
          {/each}
          <td
            >{#if may}<button
                type="button"
                class="text-mute hover:bg-faint rounded p-1"
                aria-label="Remove {row.name || `row ${i + 1}`}"
                onclick={() => (rows = rows.filter((r) => r !== row))}><X size={16} /></button
              >{/if}</td
          >
        </tr>
      {/each}
    </tbody>
  </table>
  {#each attempt.refused?.problems ?? [] as p (p.field ?? p.message)}<p
      class="text-ember-word mt-1 text-sm"
      role="alert"
    >
      {p.message}
    </p>{/each}
  {#if may}<div class="mt-2 flex gap-2">
      <Button
        small
        onclick={() =>
          (rows = [...rows, { key: next++, name: '', lengthIn: '', widthIn: '', heightIn: '', weightLb: '' }])}
        >Add a body style</Button
      >
      <Button small look="main" type="submit" busy={attempt.busy}>Save body styles</Button>
    </div>{/if}
</form>
