<script lang="ts">
  import { api, moneyKey, take, type Schemas } from '$lib/api/client';
  import { paperWords } from '$lib/loads/words';
  import { figure, said, sum } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { told, wentWrong } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';

  /** One invoice over chosen loads of a customer: looked at, its words and papers changed, sent. */
  interface Props {
    loads: Schemas['UnbilledRow'][];
    ondone: (id: number) => void;
  }
  let { loads, ondone }: Props = $props();
  let mail = $state<Schemas['InvoiceMail'] | null>(null);
  let to = $state('');
  let subject = $state('');
  let words = $state('');
  let terms = $state('');
  let papers = $state<string[]>([]);
  let refused = $state('');
  const attempt = new Attempt();
  const ids = $derived(loads.map((l) => l.loadId));
  const total = $derived(sum(loads.map((l) => l.revenue)));
  $effect(() => {
    const loadIds = ids;
    mail = null;
    refused = '';
    take(api.POST('/api/invoices/prepare', { body: { loadIds, termsDays: null, mailTo: null } }))
      .then((m) => {
        mail = m;
        to = m.to;
        subject = m.subject;
        words = m.words;
        terms = String(m.termsDays);
        papers = [...m.papers];
      })
      .catch((e: Error) => (refused = e.message));
  });
  const offered = $derived(
    [...new Set([...(mail?.papers ?? []), ...loads.flatMap((l) => l.papers)])].filter(
      (k) => !['rate_confirmation', 'carrier_bill'].includes(k),
    ),
  );
  const body = $derived({
    loadIds: ids,
    termsDays: terms.trim() === '' ? null : Number(terms),
    mailTo: to,
    subject,
    words,
    papers: papers as Schemas['PaperKind'][],
  });
  async function look() {
    try {
      const pdf = await take(api.POST('/api/invoices/preview', { body, parseAs: 'blob' }));
      window.open(URL.createObjectURL(pdf as unknown as Blob), '_blank', 'noopener');
    } catch (e) {
      wentWrong(e);
    }
  }
  const issue = () =>
    attempt.run(async (money) => {
      const made = await take(api.POST('/api/invoices', { body, headers: money }));
      told(`Invoice ${made.number} over ${said(made.total)} to ${made.customer}.`, () =>
        take(api.POST('/api/invoices/{id}/void', { params: { path: { id: made.id } }, headers: moneyKey() })),
      );
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
    <TextField
      label="To"
      required
      bind:value={to}
      maxlength={400}
      problem={attempt.at('mailTo')}
      hint="Several with commas between"
    />
    <div class="grid grid-cols-[1fr_110px] gap-3">
      <TextField label="Subject" bind:value={subject} maxlength={200} problem={attempt.at('subject')} />
      <TextField label="Due in, days" inputmode="numeric" bind:value={terms} problem={attempt.at('termsDays')} />
    </div>
    <TextField label="Words" lines={7} bind:value={words} maxlength={4000} problem={attempt.at('words')} />
    <fieldset>
      <legend class="text-mute mb-1 text-sm font-bold"
        >Papers that go along, {mail.oneFile ? 'in one file' : 'as files of their own'}</legend
      >
      <div class="flex flex-wrap gap-x-4 gap-y-1">
        {#each offered as kind (kind)}
          {@const n = loads.filter((l) => l.papers.includes(kind)).length}
          <label class="flex items-center gap-1.5 text-sm {n ? '' : 'text-mute'}"
            ><input type="checkbox" value={kind} bind:group={papers} />{paperWords[kind]}
            <span class="fig text-mute">{n}</span></label
          >
        {/each}
      </div>
    </fieldset>
    {#if attempt.refused && (attempt.refused.general || attempt.at('loadIds'))}<p
        class="text-ember-word text-sm"
        role="alert"
      >
        {attempt.refused.message}
      </p>{/if}
    <div class="flex gap-2">
      <Button look="main" type="submit" busy={attempt.busy}>Bill {figure(total)}</Button>
      <Button onclick={look}>Look at it first</Button>
    </div>
  {/if}
</form>
