<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import Choice from '$ui/Choice.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import TextField from '$ui/TextField.svelte';
  import BankFields from './BankFields.svelte';

  /** A new remit-to for a vendor: a factor, an address for checks, a bank account. */
  interface Props {
    companyId: number;
    ondone: (rows: Schemas['RemitToRow'][]) => void;
    oncancel: () => void;
  }
  let { companyId, ondone, oncancel }: Props = $props();
  let f = $state({ factor: '', notice: '', address: '', email: '', routing: '', account: '', type: 'checking' });
  const attempt = new Attempt();
  const send = () =>
    attempt.run(async () => {
      const rows = await take(
        api.POST('/api/companies/{id}/remit-to', {
          params: { path: { id: companyId } },
          body: {
            factor: f.factor || null,
            notice: f.notice || null,
            address: f.address || null,
            email: f.email || null,
            routing: f.routing || null,
            account: f.account || null,
            type: f.type as NonNullable<Schemas['RemitToOrder']['type']>,
          },
        }),
      );
      showDone('Remit-to entered. It counts once it is confirmed.');
      ondone(rows);
    });
</script>

<InnerForm {attempt} action="Enter remit-to" onact={send} {oncancel}>
  <div class="grid grid-cols-6 gap-2">
    <TextField
      class="col-span-3"
      label="Factor"
      bind:value={f.factor}
      maxlength={120}
      hint="Leave empty when the vendor is paid itself"
      problem={attempt.at('factor')}
    />
    <TextField
      class="col-span-3"
      label="Notice of assignment"
      bind:value={f.notice}
      maxlength={200}
      hint="date or number"
      problem={attempt.at('notice')}
    />
    <TextField class="col-span-3" label="Address for checks" bind:value={f.address} problem={attempt.at('address')} />
    <TextField
      class="col-span-3"
      label="Email for remittance advice"
      bind:value={f.email}
      maxlength={200}
      problem={attempt.at('email')}
    />
    <BankFields bind:routing={f.routing} bind:account={f.account} {attempt} />
    <Choice
      class="col-span-2"
      label="Account type"
      bind:value={f.type}
      options={[
        { value: 'checking', label: 'Checking' },
        { value: 'savings', label: 'Savings' },
      ]}
    />
  </div>
</InnerForm>
