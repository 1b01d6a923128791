<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { number } from '$lib/loads/form/request';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { counted } from '$lib/words';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';

  /** The company's list of liquids for tankers, and which of them may not meet. */
  interface Row {
    key: number;
    id: number | null;
    name: string;
    density: string;
    temperature: string;
    own: boolean;
    apart: string;
    notAfter: string;
    loads: number;
  }
  let rows = $state<Row[]>([]);
  let next = 0;
  const attempt = new Attempt();
  const show = (list: Schemas['Product'][]) =>
    (rows = list.map((p) => ({
      key: next++,
      id: p.id,
      name: p.name,
      density: String(p.lbPerGallon),
      temperature: p.temperatureF === null ? '' : String(p.temperatureF),
      own: p.ownCompartments,
      apart: p.apart.join(', '),
      notAfter: p.notAfter.join(', '),
      loads: p.loads ?? 0,
    })));
  const blank = (): Row => ({
    key: next++,
    id: null,
    name: '',
    density: '',
    temperature: '',
    own: false,
    apart: '',
    notAfter: '',
    loads: 0,
  });
  take(api.GET('/api/products')).then(show, showError);
  const may = $derived(session.may('setup.edit'));
  const names = (typed: string) =>
    typed
      .split(',')
      .map((n) => n.trim())
      .filter(Boolean);
  const save = () =>
    attempt.run(async () => {
      const products = rows
        .filter((r) => r.id || r.name.trim())
        .map((r) => ({
          productId: r.id,
          name: r.name,
          lbPerGallon: number(r.density),
          temperatureF: number(r.temperature),
          ownCompartments: r.own,
          apart: names(r.apart),
          notAfter: names(r.notAfter),
        }));
      show(await take(api.PUT('/api/products', { body: { products } })));
      showDone('Products saved.');
    });
  const elsewhere = $derived(
    (attempt.refused?.problems ?? []).filter((p) => !p.field?.startsWith('products[')).map((p) => p.message),
  );
</script>

<form
  class="mt-8 px-5"
  aria-label="Tanker products"
  onsubmit={(e) => {
    e.preventDefault();
    void save();
  }}
>
  <h2 class="text-mute mb-1 text-sm font-bold">Tanker products</h2>
  <p class="text-mute mb-2 text-sm">
    Liquids hauled in compartments. “Not with” names products that may not be on a trailer with it, “Wash needed after”
    those it may follow only after a wash. Separate several with commas.
  </p>
  {#each rows as row, i (row.key)}
    {@const at = (field: string) => attempt.at(`products[${i}].${field}`)}
    {#if may}
      <div class="mb-2 grid max-w-5xl grid-cols-[11rem_6rem_4rem_1fr_1fr_20rem] items-start gap-x-2">
        <TextField label="Product" bind:value={row.name} maxlength={60} problem={at('name')} />
        <TextField label="lb per gallon" inputmode="decimal" bind:value={row.density} problem={at('lbPerGallon')} />
        <TextField label="°F" inputmode="numeric" bind:value={row.temperature} problem={at('temperatureF')} />
        <TextField label="Not with" bind:value={row.apart} problem={at('apart')} />
        <TextField label="Wash needed after" bind:value={row.notAfter} problem={at('notAfter')} />
        <span class="mt-6 flex items-center gap-2">
          <label class="flex items-center gap-1.5 text-sm"
            ><input type="checkbox" bind:checked={row.own} />own compartments</label
          >
          <Button
            small
            look="quiet"
            aria-label="Remove {row.name || `product ${i + 1}`}"
            onclick={() => (rows = rows.filter((r) => r !== row))}>Remove</Button
          >
          {#if row.loads}<span class="text-mute text-sm">{counted(row.loads, 'open load')}</span>{/if}
        </span>
      </div>
    {:else}<p class="py-0.5">
        {row.name}
        <span class="text-mute text-sm"
          >{row.density} lb per gallon{row.apart ? `, not with ${row.apart}` : ''}{row.notAfter
            ? `, wash needed after ${row.notAfter}`
            : ''}{row.own ? ', own compartments' : ''}</span
        >
      </p>{/if}
  {/each}
  {#each elsewhere as said (said)}<p class="text-ember-word mt-1 text-sm" role="alert">{said}</p>{/each}
  {#if may}<div class="mt-2 flex gap-2">
      <Button small onclick={() => (rows = [...rows, blank()])}>Add a product</Button>
      <Button small look="main" type="submit" busy={attempt.busy}>Save products</Button>
    </div>{/if}
</form>
