<script lang="ts">
  import { api, Refused, take } from '$lib/api/client';
  import { findCustomers, findVendors } from '$lib/companies/find';
  import { sums } from '$lib/money';
  import { showError } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import DateField from '$ui/DateField.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Part from '$ui/Part.svelte';
  import Picker from '$ui/Picker.svelte';
  import TextField from '$ui/TextField.svelte';
  import { fromRows, hasDates, type Item, type kinds, type Party } from './opening';

  /** Open items of one kind: typed, or read from a spreadsheet and corrected. */
  interface Props {
    kind: (typeof kinds)[number];
    items: Item[];
    /** The problem of a field of an item, from the server. */
    problem: (item: Item, field: string) => string | undefined;
    nextId: () => number;
  }
  let { kind, items = $bindable(), problem, nextId }: Props = $props();
  const dated = $derived(hasDates(kind.kind));
  const mine = $derived(items.filter((i) => i.kind === kind.kind));
  let refused = $state('');

  const findDrivers = async (q: string): Promise<Party[]> =>
    (await take(api.GET('/api/fleet'))).drivers.filter((d) => d.name.toLowerCase().includes(q.toLowerCase()));
  const find = (q: string): Promise<Party[]> =>
    kind.kind === 'advance' ? findDrivers(q) : kind.kind === 'bill' ? findVendors(q) : findCustomers(q);
  const add = () =>
    items.push({
      id: nextId(),
      kind: kind.kind,
      party: null,
      number: '',
      on: '',
      dueOn: '',
      amount: null,
      notes: [],
    });
  async function sent(e: Event) {
    const input = e.target as HTMLInputElement;
    const file = input.files?.[0];
    if (!file) return;
    refused = '';
    try {
      const rows = await take(
        api.POST('/api/ledger/opening/read', {
          params: { query: { kind: kind.kind } },
          body: (await file.arrayBuffer()) as unknown as string,
          bodySerializer: (b) => b as unknown as Blob,
          headers: { 'Content-Type': 'application/octet-stream' },
        }),
      );
      const made = fromRows(rows, 0);
      for (const item of made) item.id = nextId();
      items.push(...made);
    } catch (error) {
      if (error instanceof Refused) refused = error.message;
      else showError(error);
    }
    input.value = '';
  }
</script>

<Part title={kind.title}>
  {#snippet aside()}
    {#if mine.length > 0}<span class="fig mr-3 text-sm">{mine.length}, {sums(mine.map((i) => i.amount))}</span>{/if}
    <label class="text-lark mr-2 cursor-pointer text-sm font-bold hover:underline"
      >Upload CSV or XLSX<input class="sr-only" type="file" accept=".csv,.txt,.tsv,.xlsx" onchange={sent} /></label
    >
    <Button small look="quiet" onclick={add}>Add {kind.one}</Button>
  {/snippet}
  {#if refused}<p class="text-ember-word mb-2 text-sm" role="alert">{refused}</p>{/if}
  {#each mine as item (item.id)}
    <div
      class="mb-2 grid items-end gap-2 {dated
        ? 'grid-cols-[1.6fr_1fr_130px_130px_120px_20px]'
        : 'grid-cols-[1.6fr_2fr_120px_20px]'}"
    >
      <Picker
        label={kind.party}
        required
        bind:value={item.party}
        {find}
        name={(c) => c.name}
        detail={(c) => c.town ?? ''}
        key={(c) => c.id}
        problem={problem(item, 'partyId')}
      />
      <TextField
        label={kind.number}
        required={dated}
        bind:value={item.number}
        maxlength={60}
        problem={problem(item, 'number')}
      />
      {#if dated}
        <DateField label="Date" required bind:value={item.on} problem={problem(item, 'on')} />
        <DateField label="Due" required bind:value={item.dueOn} problem={problem(item, 'dueOn')} />
      {/if}
      <MoneyField
        label="Open amount"
        required
        currency={item.party?.currency}
        bind:value={item.amount}
        problem={problem(item, 'amount')}
      />
      <button
        type="button"
        class="text-mute hover:text-ink h-9"
        aria-label="Remove {kind.one} {item.number}"
        onclick={() => (items = items.filter((i) => i.id !== item.id))}>×</button
      >
      {#if item.notes.length > 0 && (!item.party || !item.amount)}<p
          class="text-marigold-word col-span-full -mt-1 text-sm"
        >
          {item.notes.join(' ')}
        </p>{/if}
    </div>
  {:else}
    <p class="text-mute text-sm">
      None entered. A spreadsheet needs a first row with {kind.party === 'Driver'
        ? 'Driver, Note, Amount'
        : dated
          ? `${kind.party.split(' ')[0]}, Number, Date, Due date, Amount`
          : 'Customer, Reference, Amount'}.
    </p>
  {/each}
</Part>
