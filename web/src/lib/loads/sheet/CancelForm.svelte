<script lang="ts">
  import { api, ifMatch, take, type Money, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';

  /** Cancels a load; a truck that was ordered and not used is charged to the customer and paid to the carrier. */
  interface Props {
    view: Schemas['LoadSheetView'];
    ondone: () => void;
    oncancel: () => void;
  }
  let { view, ondone, oncancel }: Props = $props();
  const l = $derived(view.sheet.load);
  const carrier = $derived(l.state === 'covered' ? view.sheet.legs.at(-1)?.carrier : null);
  let why = $state('');
  let customerCharge = $state<Money | null>(null);
  let carrierCharge = $state<Money | null>(null);
  let by = $state('');
  const attempt = new Attempt();
  const cancel = () =>
    attempt.run(async () => {
      await take(
        api.POST('/api/loads/{id}/cancel', {
          params: { path: { id: l.id } },
          body: {
            why,
            customerCharge: customerCharge ?? undefined,
            carrierCharge: carrierCharge ?? undefined,
            authorization: by ? { by, on: null, reference: null } : undefined,
          },
          headers: ifMatch(l.version),
        }),
      );
      showDone(`${l.number} canceled.`);
      ondone();
    });
</script>

<InnerForm {attempt} action="Cancel load {l.number}" onact={cancel} {oncancel}>
  <TextField
    label="Reason for canceling"
    required
    bind:value={why}
    maxlength={400}
    problem={attempt.at('why')}
    hint={l.who ? `${l.who} is unassigned${carrier || l.carrierId ? ' and told by email' : ''}.` : undefined}
  />
  {#if l.state !== 'draft'}
    <div class="grid grid-cols-3 gap-3">
      <MoneyField
        label="Charge customer, USD"
        bind:value={customerCharge}
        problem={attempt.at('customerCharge')}
        hint="Truck ordered not used"
      />
      <TextField
        label="Authorized by"
        bind:value={by}
        maxlength={80}
        problem={attempt.at('customerCharge.authorization.by')}
      />
      {#if carrier}<MoneyField
          currency={view.sheet.legs.at(-1)?.agreed?.currency}
          label="Pay carrier, USD"
          bind:value={carrierCharge}
          problem={attempt.at('carrierCharge')}
          hint="Truck ordered not used"
        />{/if}
    </div>
  {/if}
</InnerForm>
