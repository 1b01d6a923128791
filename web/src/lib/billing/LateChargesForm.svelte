<script lang="ts">
  import { api, take, type Money, type Schemas } from '$lib/api/client';
  import { chargeLabels } from '$lib/loads/labels';
  import { said } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import Choice from '$ui/Choice.svelte';
  import DateField from '$ui/DateField.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';

  /** Adds a charge to a load that is billed; a supplemental invoice bills it. */
  interface Props {
    loads: { id: number; number: string }[];
    ondone: (loadId: number) => void;
    oncancel: () => void;
  }
  let { loads, ondone, oncancel }: Props = $props();
  // svelte-ignore state_referenced_locally
  let load = $state(String(loads[0]?.id ?? ''));
  let kind = $state('detention');
  let amount = $state<Money | null>(null);
  let description = $state('');
  let by = $state('');
  let on = $state('');
  let reference = $state('');
  const attempt = new Attempt();
  const add = () =>
    attempt.run(async (money) => {
      const id = Number(load);
      await take(
        api.POST('/api/loads/{id}/late-charges', {
          params: { path: { id } },
          body: {
            charges: [
              {
                kind: kind as Schemas['ChargeKind'],
                description: description || null,
                amount,
                authorization:
                  by || on || reference ? { by: by || null, on: on || null, reference: reference || null } : null,
              },
            ],
          },
          headers: money,
        }),
      );
      showDone(`${said(amount)} added to ${loads.find((l) => l.id === id)?.number}: send the supplemental invoice.`);
      ondone(id);
    });
</script>

<InnerForm {attempt} action="Add {said(amount)}" onact={add} {oncancel}>
  <div class="grid grid-cols-2 gap-3">
    {#if loads.length > 1}<Choice
        label="Load"
        bind:value={load}
        options={loads.map((l) => ({ value: String(l.id), label: l.number }))}
      />{/if}
    <Choice
      label="Late charge"
      bind:value={kind}
      problem={attempt.at('charges[0].kind')}
      options={Object.entries(chargeLabels)
        .filter(([value]) => value !== 'discount')
        .map(([value, label]) => ({ value, label }))}
    />
    <MoneyField label="Amount, USD" required bind:value={amount} problem={attempt.at('charges[0].amount')} />
    <TextField
      label="Description"
      bind:value={description}
      maxlength={200}
      problem={attempt.at('charges[0].description')}
    />
    <TextField
      label="Authorized by"
      bind:value={by}
      maxlength={80}
      problem={attempt.at('charges[0].authorization.by')}
    />
    <DateField label="Authorized on" bind:value={on} problem={attempt.at('charges[0].authorization.on')} />
    <TextField
      label="Authorization reference"
      bind:value={reference}
      maxlength={80}
      problem={attempt.at('charges[0].authorization.reference')}
    />
  </div>
</InnerForm>
