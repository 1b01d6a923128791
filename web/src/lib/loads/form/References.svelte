<script lang="ts">
  import { api, take, type Refused, type Schemas } from '$lib/api/client';
  import { findCustomers } from '$lib/companies/find';
  import { showError } from '$lib/state/messages.svelte';
  import { options } from '$lib/words';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import Part from '$ui/Part.svelte';
  import Picker from '$ui/Picker.svelte';
  import TextField from '$ui/TextField.svelte';
  import Plus from '@lucide/svelte/icons/plus';
  import X from '@lucide/svelte/icons/x';
  import { freightTermLabels, referenceLabels } from '../labels';
  import { newReference, type Typed } from './typed';

  /** References besides the customer's main one, and custom fields. */
  let { typed, refused }: { typed: Typed; refused: Refused | null } = $props();
  let fields = $state<Schemas['CustomField'][]>([]);
  let offices = $state<Schemas['UnitRow'][]>([]);
  $effect(() => {
    Promise.all([take(api.GET('/api/custom-fields')), take(api.GET('/api/offices'))])
      .then(([f, o]) => {
        fields = f;
        offices = o.filter((unit) => unit.active || String(unit.id) === typed.office);
      })
      .catch(showError);
  });
</script>

<Part title="References and billing">
  {#snippet aside()}<Button small look="quiet" onclick={() => typed.references.push(newReference())}
      ><Plus size={14} />Reference</Button
    >{/snippet}
  <div class="grid grid-cols-12 gap-x-2 gap-y-1.5">
    {#each typed.references as reference, i (reference.key)}
      <Choice
        class="col-span-4"
        label="Reference {i + 1}"
        bind:value={reference.kind}
        problem={refused?.at(`references[${i}].kind`)}
        options={options(referenceLabels)}
      />
      <Choice
        class="col-span-3"
        label="For"
        bind:value={reference.stop}
        problem={refused?.at(`references[${i}].stop`)}
        options={[
          { value: '', label: 'the load' },
          ...typed.stops.map((s, n) => ({
            value: String(n + 1),
            label: s.place ? `${n + 1} ${s.place.town}` : `stop ${n + 1}`,
          })),
        ]}
      />
      <TextField
        class="col-span-4"
        label="Number"
        bind:value={reference.value}
        maxlength={60}
        problem={refused?.at(`references[${i}].value`)}
      />
      <button
        type="button"
        class="text-mute hover:bg-faint mt-7 w-fit rounded p-1"
        aria-label="Remove reference {i + 1}"
        title="Remove reference {i + 1}"
        onclick={() => typed.references.splice(i, 1)}><X size={16} /></button
      >
    {/each}
    <Picker
      class="col-span-5"
      label="Bill to, if not the customer"
      bind:value={typed.billTo}
      find={findCustomers}
      name={(c) => c.name}
      detail={(c) => c.town ?? ''}
      key={(c) => c.id}
      problem={refused?.at('billToId')}
    />
    <Choice
      class="col-span-3"
      label="Freight terms"
      bind:value={typed.terms}
      problem={refused?.at('freightTerms')}
      options={[{ value: '', label: '—' }, ...options(freightTermLabels)]}
    />
    <TextField
      class="col-span-4"
      label="Load number"
      bind:value={typed.number}
      maxlength={20}
      problem={refused?.at('number')}
      placeholder="next in series"
    />
    {#if offices.length}
      <Choice
        class="col-span-4"
        label="Office"
        bind:value={typed.office}
        problem={refused?.at('officeId')}
        options={[
          { value: '', label: typed.number ? '—' : 'your own' },
          ...offices.map((o) => ({ value: String(o.id), label: o.name })),
        ]}
      />
    {/if}
    {#each fields as field (field.id)}
      {#if field.kind === 'choice'}
        <Choice
          class="col-span-4"
          label={field.name}
          required={field.required}
          bind:value={() => typed.own[field.id] ?? '', (v) => (typed.own[field.id] = v)}
          problem={refused?.at(`customFields[${field.id}]`)}
          options={[{ value: '', label: '—' }, ...field.choices.map((c) => ({ value: c, label: c }))]}
        />
      {:else}
        <TextField
          class="col-span-4"
          label={field.name}
          required={field.required}
          type={field.kind === 'date' ? 'date' : 'text'}
          inputmode={field.kind === 'number' ? 'decimal' : undefined}
          maxlength={400}
          bind:value={() => typed.own[field.id] ?? '', (v) => (typed.own[field.id] = v)}
          problem={refused?.at(`customFields[${field.id}]`)}
        />
      {/if}
    {/each}
  </div>
</Part>
