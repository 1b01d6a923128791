<script lang="ts">
  import { api, ifMatch, take, type Money, type Schemas } from '$lib/api/client';
  import { figure, sum } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { inCurrency } from '$ui/currency';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';
  import { chargeLabels } from '../labels';
  import { options } from '$lib/words';
  import { asOrders } from './carrierPay';

  /** What the carrier is paid, line by line; saving sends a revised rate confirmation. */
  interface Props {
    load: Schemas['LoadRow'];
    leg: Schemas['LegRow'];
    ondone: () => void;
    oncancel: () => void;
  }
  let { load: l, leg, ondone, oncancel }: Props = $props();
  const blank = () => ({ kind: 'lumper', description: '', amount: null as Money | null, by: '', reference: '' });
  // The form opens with the charges as they are then.
  // svelte-ignore state_referenced_locally
  let lines = $state(
    asOrders(leg.charges).map((c) => ({
      kind: c.kind as string,
      description: c.description ?? '',
      amount: c.amount,
      by: c.authorization?.by ?? '',
      on: c.authorization?.on ?? null,
      reference: c.authorization?.reference ?? '',
    })),
  );
  const attempt = new Attempt();
  inCurrency(() => leg.agreed?.currency);
  const total = $derived(
    sum(
      lines.map((c) => (c.amount && c.kind === 'discount' ? { ...c.amount, amount: `-${c.amount.amount}` } : c.amount)),
    ),
  );
  const save = () =>
    attempt.run(async () => {
      const done = await take(
        api.PUT('/api/loads/{id}/carrier-pay', {
          params: { path: { id: l.id } },
          body: {
            legId: leg.id,
            charges: lines.map((c) => ({
              kind: c.kind as Schemas['ChargeKind'],
              description: c.description || null,
              amount: c.amount,
              authorization:
                c.by || c.reference ? { by: c.by || null, on: c.on, reference: c.reference || null } : null,
            })),
          },
          headers: ifMatch(l.version),
        }),
      );
      showDone(`${done.summary}. A revised rate confirmation goes out.`);
      ondone();
    });
</script>

<InnerForm {attempt} action="Save {figure(total)}" onact={save} {oncancel}>
  {#each lines as line, i (i)}
    <div class="grid grid-cols-[9rem_7rem_minmax(0,1fr)] items-start gap-2">
      <Choice
        label="Carrier charge"
        bind:value={line.kind}
        problem={attempt.at(`charges[${i}].kind`)}
        options={options(chargeLabels)}
      />
      <MoneyField label="Amount" required bind:value={line.amount} problem={attempt.at(`charges[${i}].amount`)} />
      <TextField
        label="Description"
        bind:value={line.description}
        maxlength={200}
        problem={attempt.at(`charges[${i}].description`)}
      />
      {#if line.kind !== 'line_haul'}
        <TextField
          class="col-span-2"
          label="Authorized by"
          bind:value={line.by}
          maxlength={80}
          problem={attempt.at(`charges[${i}].authorization.by`)}
        />
        <div class="flex items-end gap-1">
          <TextField
            class="min-w-0 flex-1"
            label="Reference"
            bind:value={line.reference}
            maxlength={80}
            problem={attempt.at(`charges[${i}].authorization.reference`)}
          />
          {#if lines.length > 1}<Button
              small
              look="quiet"
              aria-label="Remove charge {i + 1}"
              onclick={() => (lines = lines.filter((_, at) => at !== i))}>Remove</Button
            >{/if}
        </div>
      {/if}
    </div>
  {/each}
  {#if attempt.at('charges')}<p class="text-ember-word text-sm" role="alert">{attempt.at('charges')}</p>{/if}
  <div>
    <Button small look="quiet" onclick={() => (lines = [...lines, { ...blank(), on: null }])}>Add charge</Button>
  </div>
</InnerForm>
