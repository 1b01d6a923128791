<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { api, moneyKey, take, type Schemas } from '$lib/api/client';
  import { latest } from '$lib/api/latest';
  import { documentLabels } from '$lib/loads/labels';
  import { figure, said, sum } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import { takesFocus } from '$ui/forms';
  import TextField from '$ui/TextField.svelte';

  /** One invoice for selected loads of a customer: preview, edit message and documents, send. */
  interface Props {
    loads: Schemas['UnbilledRow'][];
    ondone: (id: number) => void;
  }
  let { loads, ondone }: Props = $props();
  let mail = $state<Schemas['InvoiceMail'] | null>(null);
  let to = $state('');
  let subject = $state('');
  let message = $state('');
  let terms = $state('');
  let documents = $state<string[]>([]);
  let refused = $state('');
  const attempt = new Attempt();
  const ids = $derived(loads.map((l) => l.loadId));
  const total = $derived(mail?.total ?? sum(loads.map((l) => l.revenue)));
  const prepare = latest(
    (loadIds: number[]) =>
      take(api.POST('/api/invoices/prepare', { body: { loadIds, termsDays: null, mailTo: null } })),
    (m) => {
      mail = m;
      to = m.to;
      subject = m.subject;
      message = m.message;
      terms = String(m.termsDays);
      documents = [...m.documents];
    },
    (e) => (refused = (e as Error).message),
  );
  // By which loads, not by the rows of them: those are read again whenever somebody changes a load, and what was typed stays.
  const which = $derived(ids.join());
  $effect(() => {
    mail = null;
    refused = '';
    void prepare(which.split(',').map(Number));
  });
  const offered = $derived(
    [...new Set([...(mail?.documents ?? []), ...loads.flatMap((l) => l.documents)])].filter(
      (k) => !['rate_confirmation', 'carrier_bill'].includes(k),
    ),
  );
  const body = $derived({
    loadIds: ids,
    termsDays: terms.trim() === '' ? null : Number(terms),
    mailTo: to,
    subject,
    message,
    documents: documents as Schemas['DocumentKind'][],
  });
  const draft = new Draft(
    () => `invoice for ${ids.join()}`,
    () => ({ to, subject, message, terms, documents }),
    (v) => ({ to, subject, message, terms, documents } = v),
    () => mail !== null,
  );
  async function look() {
    try {
      const pdf = await take(api.POST('/api/invoices/preview', { body, parseAs: 'blob' }));
      window.open(URL.createObjectURL(pdf as unknown as Blob), '_blank', 'noopener');
    } catch (e) {
      showError(e);
    }
  }
  const issue = () =>
    attempt.run(async (money) => {
      const made = await take(api.POST('/api/invoices', { body, headers: money }));
      showDone(`Invoice ${made.number} for ${said(made.total)} created for ${made.customer}.`, () =>
        take(api.POST('/api/invoices/{id}/void', { params: { path: { id: made.id } }, headers: moneyKey() })),
      );
      draft.done();
      ondone(made.id);
    });
</script>

<form
  class="flex flex-col gap-3 p-5"
  onsubmit={(e) => {
    e.preventDefault();
    void issue();
  }}
>
  <div class="pr-8">
    <h2 class="text-lg font-bold">Bill {loads[0]?.customer}</h2>
    <p class="text-mute text-sm">
      {loads.length === 1 ? 'one load' : `${loads.length} loads on one invoice`}: {loads
        .map((l) => l.number)
        .join(', ')}
    </p>
  </div>
  {#if refused}<p class="text-ember-word" role="alert">{refused}</p>
  {:else if !mail}<p class="text-mute" role="status">Loading …</p>
  {:else}
    <div use:takesFocus class="contents">
      <DraftNotice {draft} />
      <TextField
        label="To"
        required
        bind:value={to}
        maxlength={400}
        problem={attempt.at('mailTo')}
        hint="Separate addresses with commas"
      />
      <div class="grid grid-cols-[1fr_110px] gap-3">
        <TextField label="Subject" bind:value={subject} maxlength={200} problem={attempt.at('subject')} />
        <TextField label="Due in, days" inputmode="numeric" bind:value={terms} problem={attempt.at('termsDays')} />
      </div>
      <TextField label="Message" lines={7} bind:value={message} maxlength={4000} problem={attempt.at('message')} />
      <fieldset>
        <legend class="text-mute mb-1 text-sm font-bold"
          >Attachments, {mail.oneFile ? 'in one file' : 'as separate files'}</legend
        >
        <div class="flex flex-wrap gap-x-4 gap-y-1">
          {#each offered as kind (kind)}
            {@const n = loads.filter((l) => l.documents.includes(kind)).length}
            <label class="flex items-center gap-1.5 text-sm {n ? '' : 'text-mute'}"
              ><input type="checkbox" value={kind} bind:group={documents} />{documentLabels[kind]}
              <span class="fig text-mute">{n}</span></label
            >
          {/each}
        </div>
      </fieldset>
      {#each mail.taxes as tax (tax.name)}
        <p class="text-sm">{tax.name} on {figure(tax.on)}: <b class="fig">{figure(tax.amount)}</b></p>
      {/each}
      {#if attempt.refused && (attempt.refused.general || attempt.at('loadIds'))}<p
          class="text-ember-word text-sm"
          role="alert"
        >
          {attempt.refused.message}
        </p>{/if}
      <div class="flex gap-2">
        <Button look="main" type="submit" busy={attempt.busy}>Bill {figure(total)}</Button>
        <Button onclick={look}>Preview</Button>
      </div>
    </div>
  {/if}
</form>
