<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { number } from '$lib/loads/form/request';
  import { text } from '$lib/loads/form/key';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { counted } from '$lib/words';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import TextField from '$ui/TextField.svelte';
  import { untrack } from 'svelte';

  /** Adds a rate table, or edits one: its terms here, its rates from a file. */
  interface Props {
    table: Schemas['ClassRates'] | null;
    onsaved: () => Promise<void>;
    oncancel: () => void;
  }
  let { table, onsaved, oncancel }: Props = $props();
  const before = untrack(() => table);
  let name = $state(before?.name ?? '');
  let currency = $state<string>(before?.currency ?? 'USD');
  let discount = $state(text(before?.discountPercent));
  let minimum = $state(text(before?.minimum));
  let surcharge = $state(text(before?.surchargePercent));
  let rates = $state<Schemas['ClassRatesFile'] | null>(null);
  const attempt = new Attempt();

  const sent = (e: Event) =>
    attempt.run(async () => {
      const input = e.target as HTMLInputElement;
      const file = input.files?.[0];
      if (!file) return;
      rates = null;
      const body = (await file.arrayBuffer()) as unknown as string;
      input.value = '';
      rates = await take(
        api.POST('/api/class-rates/read', {
          body,
          bodySerializer: (b) => b as unknown as Blob,
          headers: { 'Content-Type': 'application/octet-stream' },
        }),
      );
    });
  const save = () =>
    attempt.run(async () => {
      const body = {
        name,
        currency: currency as Schemas['Currency'],
        discountPercent: number(discount),
        minimum: number(minimum),
        surchargePercent: number(surcharge),
        rates,
        active: true,
      };
      await take(
        before
          ? api.PUT('/api/class-rates/{id}', { params: { path: { id: before.id } }, body })
          : api.POST('/api/class-rates', { body }),
      );
      showDone(`Rate table ${name} saved.`);
      await onsaved();
    });
  const ofFile = $derived(
    (attempt.refused?.problems ?? []).filter((p) => p.field === 'file' || p.field === 'rates').map((p) => p.message),
  );
</script>

<form
  class="bg-faint my-2 max-w-4xl rounded p-3"
  aria-label={before ? `Rate table ${before.name}` : 'New rate table'}
  onsubmit={(e) => {
    e.preventDefault();
    void save();
  }}
>
  <div class="grid grid-cols-[1fr_6rem_7rem_8rem_9rem] items-start gap-x-3">
    <TextField label="Name" required bind:value={name} maxlength={60} problem={attempt.at('name')} />
    <Choice
      label="Currency"
      bind:value={currency}
      problem={attempt.at('currency')}
      options={['USD', 'CAD'].map((value) => ({ value, label: value }))}
    />
    <TextField label="Discount, %" inputmode="decimal" bind:value={discount} problem={attempt.at('discountPercent')} />
    <TextField label="Minimum charge" inputmode="decimal" bind:value={minimum} problem={attempt.at('minimum')} />
    <TextField
      label="Fuel surcharge, %"
      inputmode="decimal"
      bind:value={surcharge}
      problem={attempt.at('surchargePercent')}
    />
  </div>
  <p class="mt-2 text-sm">
    <label class="text-lark focus-within:outline-lark cursor-pointer font-bold focus-within:outline-2 hover:underline"
      >{before ? 'Replace rates (CSV or XLSX)' : 'Upload rates (CSV or XLSX)'}<input
        class="sr-only"
        type="file"
        accept=".csv,.txt,.tsv,.xlsx"
        onchange={sent}
      /></label
    >
    <span class="text-mute ml-2"
      >{rates
        ? `${counted(rates.rows.length, 'row')} of rates read, ${counted(rates.breaks.length, 'weight break')}`
        : 'Columns: up to miles, class, then one for each weight break in pounds, starting with 0.'}</span
    >
  </p>
  {#each ofFile as said (said)}<p class="text-ember-word mt-1 text-sm" role="alert">{said}</p>{/each}
  <div class="mt-2 flex gap-2">
    <Button small look="main" type="submit" busy={attempt.busy}>Save rate table</Button>
    <Button small look="quiet" onclick={oncancel}>Cancel</Button>
  </div>
</form>
