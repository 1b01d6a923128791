<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { api, moneyKey, take, type Money, type Schemas } from '$lib/api/client';
  import { documentLabels } from '$lib/loads/labels';
  import { figure } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import { inCurrency, type Currency } from '$ui/currency';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';

  /** A customer's billing settings: lines and columns, documents, recipients, message, and required documents. */
  let { customerId, currency = 'USD' }: { customerId: number; currency?: Currency } = $props();
  inCurrency(() => currency);
  let view = $state.raw<Schemas['BillingSettingsView'] | null>(null);
  let settings = $state<Schemas['BillingSettings'] | null>(null);
  let open = $state(false);
  let free = $state('');
  let perHour = $state<Money | null>(null);
  let cap = $state<Money | null>(null);
  const attempt = new Attempt();
  $effect(() => {
    take(api.GET('/api/companies/{id}/billing-settings', { params: { path: { id: customerId } } }))
      .then((v) => {
        view = v;
        read(v);
      })
      .catch(showError);
  });
  const draft = new Draft(
    () => `billing settings ${customerId}`,
    () => ({ settings, free, perHour, cap }),
    (v) => ({ settings, free, perHour, cap } = v),
    () => settings !== null,
  );
  function read(v: Schemas['BillingSettingsView']) {
    settings = structuredClone(v.settings);
    free = String(v.settings.detention?.freeMinutes ?? 120);
    perHour = v.settings.detention?.perHour ?? null;
    cap = v.settings.detention?.cap ?? null;
  }
  const kinds = ['pod', 'bol', 'scale_ticket', 'lumper_receipt', 'photo', 'other'];
  const said = $derived(
    settings &&
      [
        settings.together ? 'weekly invoice' : 'one invoice per load',
        settings.byLoad ? 'one line per load' : 'one line per charge',
        settings.columns.length &&
          `with ${settings.columns.map((c) => view?.fields.find((f) => f.id === c)?.title ?? c).join(', ')}`,
        settings.oneFile ? 'attachments in one file' : 'attachments as separate files',
        `requires ${settings.requiredDocuments.map((d) => documentLabels[d]).join(', ') || 'no documents'}`,
        settings.detention?.perHour &&
          `detention ${figure(settings.detention.perHour)} per hour after ${settings.detention.freeMinutes} min`,
        settings.recipients && `to ${settings.recipients}`,
      ]
        .filter(Boolean)
        .join('; '),
  );
  const save = () =>
    attempt.run(async () => {
      view = await take(
        api.PUT('/api/companies/{id}/billing-settings', {
          params: { path: { id: customerId } },
          body: {
            ...settings!,
            recipients: settings!.recipients || null,
            subject: settings!.subject || null,
            message: settings!.message || null,
            detention: {
              freeMinutes: /^\d+$/.test(free.trim()) ? Number(free) : -1,
              perHour: perHour ?? undefined,
              cap: cap ?? undefined,
            },
            version: view!.version,
          },
        }),
      );
      read(view);
      draft.done();
      open = false;
      showDone('Billing settings saved.');
    });
  async function statement() {
    try {
      const sent = await take(
        api.POST('/api/companies/{id}/statement', {
          params: { path: { id: customerId } },
          body: { to: null, message: null },
          headers: moneyKey(),
        }),
      );
      showDone(`Statement emailed to ${sent.to}.`);
    } catch (e) {
      showError(e);
    }
  }
  const flip = (list: string[], item: string) =>
    list.includes(item) ? list.filter((x) => x !== item) : [...list, item];
</script>

<section class="border-line my-4 border-t pt-3" aria-label="Billing settings">
  <div class="flex items-center justify-between">
    <h3 class="text-mute text-sm font-bold">Billing settings</h3>
    <span class="flex gap-3 text-sm">
      <a
        class="text-lark hover:underline"
        href="/api/companies/{customerId}/statement?format=pdf"
        target="_blank"
        rel="noopener">Statement of account</a
      >
      {#if session.may('billing.invoice')}<button class="text-lark hover:underline" onclick={statement}>Email</button
        >{/if}
    </span>
  </div>
  {#if settings && view}
    <p class="mt-1 text-sm">{said}.</p>
    {#if session.may('billing.invoice')}
      {#if !open}<button class="text-lark text-sm hover:underline" onclick={() => (open = true)}>Edit</button>
      {:else}
        <DraftNotice {draft} class="mt-2" />
        <form
          class="mt-2 flex flex-col gap-3"
          onsubmit={(e) => {
            e.preventDefault();
            void save();
          }}
        >
          <div class="flex flex-col gap-1 text-sm">
            <label class="flex items-center gap-2"
              ><input type="checkbox" bind:checked={settings.together} />One invoice per week</label
            >
            <label class="flex items-center gap-2"
              ><input type="checkbox" bind:checked={settings.byLoad} />One line per load with its charges totaled</label
            >
            <label class="flex items-center gap-2"
              ><input type="checkbox" bind:checked={settings.holdForClaims} />Hold invoices while a claim is open</label
            >
            <label class="flex items-center gap-2"
              ><input type="checkbox" bind:checked={settings.oneFile} />Invoice and attachments in one file</label
            >
          </div>
          <div class="grid grid-cols-3 gap-3">
            <TextField
              label="Free time per stop, min"
              inputmode="numeric"
              bind:value={free}
              problem={attempt.at('detention.freeMinutes')}
            />
            <MoneyField
              label="Detention, USD per hour"
              bind:value={perHour}
              problem={attempt.at('detention.perHour')}
              hint="Empty for none"
            />
            <MoneyField label="Most per stop, USD" bind:value={cap} problem={attempt.at('detention.cap')} />
          </div>
          <fieldset>
            <legend class="text-mute text-sm">Columns, up to 6, in the order selected</legend>
            <div class="flex flex-wrap gap-x-3 gap-y-1">
              {#each view.fields as f (f.id)}
                <label class="flex items-center gap-1 text-sm"
                  ><input
                    type="checkbox"
                    checked={settings.columns.includes(f.id)}
                    onchange={() => (settings!.columns = flip(settings!.columns, f.id))}
                  />{f.title}{#if settings.columns.includes(f.id)}<sup class="fig text-lark"
                      >{settings.columns.indexOf(f.id) + 1}</sup
                    >{/if}</label
                >
              {/each}
            </div>
            {#if attempt.at('columns')}<p class="text-ember-word text-sm" role="alert">{attempt.at('columns')}</p>{/if}
          </fieldset>
          {#each [['documents', 'Attachments'], ['requiredDocuments', 'Required before billing']] as [field, title] (field)}
            <fieldset>
              <legend class="text-mute text-sm">{title}</legend>
              <div class="flex flex-wrap gap-x-3 gap-y-1">
                {#each kinds as kind (kind)}
                  <label class="flex items-center gap-1 text-sm"
                    ><input
                      type="checkbox"
                      checked={(settings[field as 'documents' | 'requiredDocuments'] as string[]).includes(kind)}
                      onchange={() =>
                        (settings![field as 'documents' | 'requiredDocuments'] = flip(
                          settings![field as 'documents' | 'requiredDocuments'],
                          kind,
                        ) as Schemas['DocumentKind'][])}
                    />{documentLabels[kind]}</label
                  >
                {/each}
              </div>
            </fieldset>
          {/each}
          <TextField
            label="To"
            bind:value={() => settings!.recipients ?? '', (v) => (settings!.recipients = v)}
            problem={attempt.at('recipients')}
            hint="Separate addresses with commas; empty uses the customer email"
            maxlength={400}
          />
          <TextField
            label="Subject"
            bind:value={() => settings!.subject ?? '', (v) => (settings!.subject = v)}
            problem={attempt.at('subject')}
            maxlength={200}
          />
          <TextField
            label="Message"
            lines={5}
            bind:value={() => settings!.message ?? '', (v) => (settings!.message = v)}
            problem={attempt.at('message')}
            hint="Placeholders:  {view.names.map((n) => `{${n}}`).join(' ')}"
            maxlength={4000}
          />
          {#if attempt.refused?.at('version')}<p class="text-ember-word text-sm" role="alert">
              {attempt.refused.message}
            </p>{/if}
          <div class="flex gap-2">
            <Button small look="main" type="submit" busy={attempt.busy}>Save billing settings</Button>
            <Button
              small
              look="quiet"
              onclick={() => {
                read(view!);
                open = false;
              }}>Cancel</Button
            >
          </div>
        </form>
      {/if}
    {/if}
  {/if}
</section>
