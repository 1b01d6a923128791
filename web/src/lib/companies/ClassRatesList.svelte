<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { figure } from '$lib/money';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { counted } from '$lib/words';
  import Button from '$ui/Button.svelte';
  import ClassRatesForm from './ClassRatesForm.svelte';

  /** The company's less-than-truckload rates: tables by distance, freight class and weight, with their terms. */
  type Table = Schemas['ClassRates'];
  let tables = $state<Table[] | null>(null);
  let editing = $state<number | 'new' | null>(null);
  let shown = $state<number | null>(null);
  const may = $derived(session.may('setup.edit'));
  const load = () => take(api.GET('/api/class-rates')).then((all) => (tables = all), showError);
  void load();
  const distances = (t: Table) => [...new Set(t.rows.map((r) => r.upToMiles))];
  const classes = (t: Table) => new Set(t.rows.map((r) => r.class)).size;
  const terms = (t: Table) =>
    [
      t.discountPercent ? `${t.discountPercent} % discount` : 'no discount',
      t.minimum ? `minimum ${figure({ amount: t.minimum.toFixed(2), currency: t.currency })}` : 'no minimum',
      t.surchargePercent ? `${t.surchargePercent} % fuel surcharge` : 'no fuel surcharge',
    ].join(', ');
  async function remove(t: Table) {
    const save = (active: boolean) =>
      take(
        api.PUT('/api/class-rates/{id}', {
          params: { path: { id: t.id } },
          body: {
            name: t.name,
            discountPercent: t.discountPercent,
            minimum: t.minimum,
            surchargePercent: t.surchargePercent,
            active,
          },
        }),
      ).then(load);
    try {
      await save(false);
      showDone(`Rate table ${t.name} removed.`, () => save(true));
    } catch (e) {
      showError(e);
    }
  }
  async function saved() {
    editing = null;
    await load();
  }
</script>

<section class="mt-8 px-5" aria-label="LTL rates">
  <h2 class="text-mute mb-1 text-sm font-bold">LTL rates by freight class</h2>
  <p class="text-mute mb-2 text-sm">
    Dollars per hundredweight by distance, class and weight. Book a load with the rate basis “by class” to use them. A
    load can have its own discount and minimum.
  </p>
  {#each tables ?? [] as t (t.id)}
    <div class="border-line max-w-5xl border-b py-1.5">
      <div class="flex flex-wrap items-center gap-x-3">
        <b>{t.name}</b>
        <span class="text-mute text-sm"
          >{t.currency}, {terms(t)} · {classes(t)}
          {classes(t) === 1 ? 'class' : 'classes'}, {counted(t.breaks.length, 'weight break')}, up to {distances(t)
            .at(-1)
            ?.toLocaleString('en-US')} mi</span
        >
        <span class="ml-auto flex gap-1">
          <Button
            small
            look="quiet"
            aria-expanded={shown === t.id}
            onclick={() => (shown = shown === t.id ? null : t.id)}
            >{shown === t.id ? 'Hide rates' : 'Show rates'}</Button
          >
          {#if may}
            <Button small look="quiet" aria-label="Edit {t.name}" onclick={() => (editing = t.id)}>Edit</Button>
            <Button small look="quiet" aria-label="Remove {t.name}" onclick={() => void remove(t)}>Remove</Button>
          {/if}
        </span>
      </div>
      {#if shown === t.id}
        <table class="fig mt-1 text-sm" aria-label="Rates of {t.name}">
          <thead class="text-mute"
            ><tr>
              <th class="pr-4 text-left font-normal">up to</th><th class="pr-4 text-right font-normal">class</th>
              {#each t.breaks as pounds (pounds)}<th class="w-20 text-right font-normal"
                  >{pounds.toLocaleString('en-US')} lb</th
                >{/each}
            </tr></thead
          >
          <tbody>
            {#each t.rows as r (`${r.upToMiles} ${r.class}`)}
              <tr class="border-line border-t">
                <td class="pr-4">{r.upToMiles.toLocaleString('en-US')} mi</td>
                <td class="pr-4 text-right">{r.class}</td>
                {#each r.perCwt ?? [] as rate, i (i)}<td class="text-right">{rate.toFixed(2)}</td>{/each}
              </tr>
            {/each}
          </tbody>
        </table>
        <p class="mt-1 text-sm">
          <a class="text-lark font-bold hover:underline" href="/api/class-rates/{t.id}/file?format=csv" download
            >Download CSV</a
          >
          ·
          <a class="text-lark font-bold hover:underline" href="/api/class-rates/{t.id}/file?format=xlsx" download
            >Download XLSX</a
          >
        </p>
      {/if}
      {#if editing === t.id}<ClassRatesForm table={t} onsaved={saved} oncancel={() => (editing = null)} />{/if}
    </div>
  {:else}
    {#if tables}<p class="text-mute text-sm">None yet.</p>{/if}
  {/each}
  {#if may}
    {#if editing === 'new'}<ClassRatesForm table={null} onsaved={saved} oncancel={() => (editing = null)} />
    {:else}<p class="mt-2"><Button small onclick={() => (editing = 'new')}>Add a rate table</Button></p>{/if}
  {/if}
</section>
