<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import type { Attempt } from '$lib/state/attempt.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import TextField from '$ui/TextField.svelte';
  import X from '@lucide/svelte/icons/x';
  import { deckOf, type Layout } from './layout';

  /** The compartments of a tanker, or the decks of a car hauler, from the front. */
  interface Props {
    equipment: string;
    layout: Layout;
    attempt: Attempt;
  }
  let { equipment, layout = $bindable(), attempt }: Props = $props();
  let templates = $state<Schemas['DeckTemplate'][]>([]);
  $effect(() => {
    if (equipment === 'car_hauler' && templates.length === 0)
      take(api.GET('/api/deck-templates')).then((t) => (templates = t), showError);
  });
</script>

{#if equipment === 'tanker'}
  <fieldset class="col-span-6">
    <legend class="text-mute text-sm">Compartments, from the front</legend>
    <div class="flex flex-wrap items-end gap-2">
      {#each layout.compartments as _, i (i)}
        <TextField
          class="w-20"
          label="No. {i + 1}"
          inputmode="decimal"
          bind:value={layout.compartments[i]}
          problem={attempt.at(`compartments[${i}]`)}
        />
      {/each}
      <Choice
        class="w-28"
        label="In"
        bind:value={layout.unit}
        options={[
          { value: 'gallons', label: 'gallons' },
          { value: 'liters', label: 'liters' },
        ]}
      />
      <Button small class="mb-1" onclick={() => layout.compartments.push('')}>Add a compartment</Button>
      {#if layout.compartments.length}<Button small look="quiet" class="mb-1" onclick={() => layout.compartments.pop()}
          >Remove the last</Button
        >{/if}
    </div>
    {#if attempt.at('compartments')}<p class="text-ember-word text-sm" role="alert">
        {attempt.at('compartments')}
      </p>{/if}
  </fieldset>
{:else if equipment === 'car_hauler'}
  <fieldset class="col-span-6">
    <legend class="text-mute text-sm">Decks, from the front</legend>
    {#each layout.decks as deck, i (i)}
      {@const at = (field: string) => attempt.at(`decks[${i}].${field}`)}
      <div class="mb-1 grid grid-cols-[1.7fr_1fr_1fr_1.1fr_auto] gap-2">
        <TextField label="Deck" bind:value={deck.name} maxlength={20} problem={at('name')} />
        <TextField label="Length, in" inputmode="numeric" bind:value={deck.lengthIn} problem={at('lengthIn')} />
        <TextField label="Height, in" inputmode="numeric" bind:value={deck.heightIn} problem={at('heightIn')} />
        <TextField label="Payload, lb" inputmode="numeric" bind:value={deck.payloadLb} problem={at('payloadLb')} />
        <button
          type="button"
          class="text-mute hover:bg-faint mt-6 h-fit rounded p-1"
          aria-label="Remove deck {i + 1}"
          title="Remove deck {i + 1}"
          onclick={() => layout.decks.splice(i, 1)}><X size={16} /></button
        >
      </div>
    {/each}
    <div class="flex flex-wrap items-center gap-2">
      <Button small onclick={() => layout.decks.push({ name: '', lengthIn: '', heightIn: '', payloadLb: '' })}
        >Add a deck</Button
      >
      {#if templates.length}<span class="text-mute text-sm">Usual decks, by vehicles:</span>
        {#each templates as t (t.vehicles)}<Button
            small
            look="quiet"
            aria-label="Usual decks for {t.vehicles === 1 ? '1 vehicle' : `${t.vehicles} vehicles`}"
            onclick={() => (layout.decks = t.decks.map(deckOf))}>{t.vehicles}</Button
          >{/each}
      {/if}
    </div>
    {#if attempt.at('decks')}<p class="text-ember-word text-sm" role="alert">{attempt.at('decks')}</p>{/if}
  </fieldset>
{/if}
