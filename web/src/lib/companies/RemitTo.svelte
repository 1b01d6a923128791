<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { latest } from '$lib/api/latest';
  import { onChange } from '$lib/state/change.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDay } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import Notice from '$ui/Notice.svelte';
  import TextField from '$ui/TextField.svelte';
  import RemitToForm from './RemitToForm.svelte';

  /** Whom we pay for a vendor's bills. A change is confirmed by another person who has called the vendor back. */
  let { companyId, name }: { companyId: number; name: string } = $props();
  let rows = $state<Schemas['RemitToRow'][]>([]);
  let editing = $state(false);
  let confirming = $state(false);
  let callBack = $state('');
  const attempt = new Attempt();
  const load = latest(
    () => take(api.GET('/api/companies/{id}/remit-to', { params: { path: { id: companyId } } })),
    (answer) => (rows = answer),
    showError,
  );
  onChange(
    () => companyId,
    () => {
      editing = confirming = false;
      void load();
      return live.follow(load, ['companies']);
    },
  );
  const pending = $derived(rows.find((r) => r.state === 'proposed'));
  const current = $derived(rows.find((r) => r.state === 'confirmed'));
  const payee = (r: Schemas['RemitToRow']) =>
    [
      r.factor ?? name,
      r.bank ?? 'by check',
      r.address,
      r.email && `remittance advice to ${r.email}`,
      r.notice && `notice of assignment: ${r.notice}`,
    ]
      .filter(Boolean)
      .join(', ');
  const confirm = () =>
    attempt.run(async () => {
      rows = await take(
        api.POST('/api/remit-tos/{id}/confirm', { params: { path: { id: pending!.id } }, body: { callBack } }),
      );
      confirming = false;
      callBack = '';
      showDone(`Remit-to of ${name} confirmed.`);
    });
  const decline = () =>
    attempt.run(async () => {
      rows = await take(api.POST('/api/remit-tos/{id}/decline', { params: { path: { id: pending!.id } } }));
      showDone(`Remit-to of ${name} declined.`);
    });
</script>

<section class="mb-4" aria-label="Remit-to">
  <h3 class="font-bold">Remit-to</h3>
  <p class="text-sm">{current ? payee(current) : `${name}, by check to its address`}</p>
  {#if current?.decidedBy}<p class="text-mute text-sm">
      Confirmed by {current.decidedBy}: {current.callBack}
    </p>{/if}
  {#if pending}
    <div class="mt-2">
      <Notice title="To confirm: {payee(pending)}">
        <p>
          Entered by {pending.proposedBy ?? 'the system'}
          {formatDay(pending.proposedAt.slice(0, 10))}. Bills are not paid until it is confirmed: call {name} at a number
          known before this change.
        </p>
        {#if session.may('paying.approve') && !confirming}
          {#if session.current?.twoPeople && pending.proposedById === session.current.userId}
            <p class="text-mute">You entered it, so another person must confirm it.</p>
          {:else}
            <div class="mt-2 flex gap-2">
              <Button small look="main" onclick={() => (confirming = true)}>Confirm</Button>
              <Button small look="quiet" busy={attempt.busy} onclick={decline}>Decline</Button>
            </div>
          {/if}
        {/if}
      </Notice>
      {#if confirming}
        <InnerForm {attempt} action="Confirm remit-to" onact={confirm} oncancel={() => (confirming = false)}>
          <TextField
            label="Called back"
            required
            bind:value={callBack}
            maxlength={400}
            hint="whom, and at which known number"
            problem={attempt.at('callBack')}
          />
        </InnerForm>
      {/if}
    </div>
  {/if}
  {#if editing}
    <RemitToForm
      {companyId}
      ondone={(all) => {
        rows = all;
        editing = false;
      }}
      oncancel={() => (editing = false)}
    />
  {:else if session.may('paying.enter')}
    <Button small class="mt-2" onclick={() => (editing = true)}>Change remit-to</Button>
  {/if}
</section>
