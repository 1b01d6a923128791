<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { untrack } from 'svelte';
  import { api, ifMatch, Refused, take, type Schemas } from '$lib/api/client';
  import { said } from '$lib/money';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import { missing } from '$ui/forms';
  import Key from '$ui/Key.svelte';
  import Notice from '$ui/Notice.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';
  import Charges from './form/Charges.svelte';
  import Customer from './form/Customer.svelte';
  import FreightLines from './form/FreightLines.svelte';
  import References from './form/References.svelte';
  import Stops from './form/Stops.svelte';
  import { copied, nothing, typedOf, routeTo, type Typed, rekeyed } from './form/typed';
  import { requestOf, toPrice, unreadable } from './form/request';
  import { differing, merged, partLabels } from './form/merge';

  interface Props {
    /** The load to edit; a new one when omitted. */
    edit?: Schemas['LoadSheetView'] | null;
    /** The load to copy. */
    copy?: Schemas['LoadSheetView'] | null;
    onbooked: (id: number) => void;
  }
  let { edit = null, copy = null, onbooked }: Props = $props();

  let typed = $state(nothing());
  let refused = $state<Refused | null>(null);
  let busy = $state('');
  let road = $state<Schemas['RoadMiles'] | null>(null);
  const miles = $derived(road?.miles ?? null);
  let emptyMiles = $state('');
  /** What the charges come to, as the server prices them; the last answer stays while the next one is on its way. */
  let price = $state.raw<Schemas['ChargePreview'] | null>(null);
  const toBePriced = $derived(JSON.stringify(toPrice(typed, miles, road?.minimum ?? null)));
  $effect(() => {
    const mine = toBePriced;
    if (!session.may('loads.book') || !session.may('rates.see')) return;
    take(api.POST('/api/loads/price', { body: JSON.parse(mine) }))
      .then((p) => (price = toBePriced === mine ? p : price))
      .catch(() => {});
  });

  /** The load as it was when editing began, with its version; others' changes are shown next to it. */
  let base = $state.raw<Typed | null>(null);
  let version = $state(0);
  let editing = 0;
  let newest = $state.raw<Schemas['LoadSheetView'] | null>(null);
  $effect(() => {
    const [e, c] = [edit, copy];
    untrack(() => {
      if (e && e.sheet.load.id === editing) {
        // Someone else changed it: what is being typed is never overwritten.
        if (e.sheet.load.version !== version) newest = e;
      } else if (e) {
        editing = e.sheet.load.id;
        version = e.sheet.load.version;
        base = typedOf(e.sheet);
        typed = typedOf(e.sheet);
      } else if (c) typed = copied(c.sheet, session.wallClock(session.zone));
    });
  });

  const kept = new Draft(
    () => (edit ? `load ${edit.sheet.load.id}` : copy ? `copy of ${copy.sheet.load.id}` : 'load'),
    () => ({ typed, base: edit ? base : null, version: edit ? version : 0 }),
    (v) => {
      typed = rekeyed(v.typed);
      // Others' changes are merged, not undone.
      if (edit && v.base && v.version !== version) {
        base = v.base;
        newest = edit;
      }
    },
  );

  const theirs = $derived(newest && base ? typedOf(newest.sheet) : null);
  const changed = $derived(theirs && base ? differing(base, theirs) : []);
  const both = $derived(theirs && base ? merged(base, typed, theirs).both : []);
  /** Merges others' changes, mine on top. */
  function takeIn() {
    typed = merged(base!, $state.snapshot(typed) as Typed, theirs!).typed;
    base = theirs;
    version = newest!.sheet.load.version;
    newest = null;
    refused = null;
  }

  // Miles are known as soon as both ends are.
  const ends = $derived(typed.stops.map((s) => s.place?.id ?? 0).join());
  $effect(() => {
    const mine = ends;
    const empty = Number(emptyMiles);
    if (!mine.split(',').some(Number)) {
      road = null;
      return;
    }
    const stops = untrack(() =>
      typed.stops.map((s, i) => ({ placeId: s.place?.id ?? null, routeOverride: routeTo(typed.stops, i) })),
    );
    take(
      api.POST('/api/miles', {
        body: { stops, emptyMiles: emptyMiles.trim() && Number.isFinite(empty) ? Math.round(empty) : null },
      }),
    )
      .then((m) => (road = ends === mine ? m : road))
      .catch(() => {});
  });

  let sheet = $state<HTMLElement>();
  /** Goes to the next required empty field. */
  const next = () => requestAnimationFrame(() => sheet && missing(sheet)[0]?.focus());

  const drafted = $derived(edit?.sheet.load.state === 'draft');
  const booked = $derived(!!edit && !drafted);

  async function send(draft: boolean) {
    refused = unreadable(typed);
    if (refused) return;
    busy = draft ? 'draft' : 'book';
    const body = requestOf($state.snapshot(typed), draft, edit?.sheet.load.number ?? null);
    try {
      const done = edit
        ? await take(
            api.PUT('/api/loads/{id}', {
              params: { path: { id: edit.sheet.load.id } },
              body,
              headers: ifMatch(version),
            }),
          )
        : await take(api.POST('/api/loads', { body }));
      const warning = [...done.warnings.map((w) => w.message), done.held ? `On hold: ${done.held}` : '']
        .join(' ')
        .trim();
      showDone(
        `${done.number} ${draft ? 'saved as a draft' : booked ? 'changed' : 'booked'}.${warning ? ` ${warning}` : ''}`,
        draft || booked
          ? undefined
          : () =>
              take(
                api.POST('/api/loads/{id}/cancel', {
                  params: { path: { id: done.id } },
                  body: { why: 'undone right after booking' },
                }),
              ),
      );
      kept.done();
      onbooked(done.id);
    } catch (e) {
      if (e instanceof Refused && e.status === 409 && edit) {
        newest = await take(api.GET('/api/loads/{id}', { params: { path: { id: edit.sheet.load.id } } })).catch(
          () => null,
        );
        if (!newest) refused = e;
      } else if (e instanceof Refused) {
        refused = e;
        requestAnimationFrame(() => document.querySelector<HTMLElement>('form [aria-invalid="true"]')?.focus());
      } else showError(e);
    } finally {
      busy = '';
    }
  }
  const at = (field: string) => refused?.at(field);
  // An error that no field shows is shown above the buttons.
  const shown =
    /^(customerId|billToId|freightTerms|reference|equipment|cod|number|officeId|driverInstructions|carrierInstructions|own\[\d+\]|(stops|freight|charges|references)\[\d+\]\.[\w.]+)$/;
  const others = $derived((refused?.problems ?? []).filter((p) => !p.field || !shown.test(p.field)));
</script>

<svelte:window
  onkeydown={(e) => {
    // From a field, the form's own grammar does it.
    if (e.key === 'Enter' && (e.ctrlKey || e.metaKey) && !e.defaultPrevented) {
      e.preventDefault();
      void send(false);
    }
  }}
/>
<form
  class="pb-6"
  bind:this={sheet}
  aria-label={edit ? `Edit load ${edit.sheet.load.number}` : 'Book a load'}
  onsubmit={(e) => {
    e.preventDefault();
    void send(false);
  }}
>
  <h2 class="px-5 pt-4 pb-3 text-lg font-bold">
    {edit ? `Edit ${edit.sheet.load.number}` : copy ? `Copy of ${copy.sheet.load.number}` : 'New load'}
  </h2>
  {#if newest && changed.length}
    <div class="bg-panel sticky top-0 z-10 px-5 py-2">
      <Notice urgency="soon" title="Someone else changed this load">
        <p>
          {changed.map((p) => partLabels[p]).join(', ')}{both.length
            ? `; you also changed ${both.map((p) => partLabels[p]).join(', ')} : your values will be kept`
            : ''}.
        </p>
        <Button small class="mt-2" onclick={takeIn}>Merge and keep what I typed</Button>
      </Notice>
    </div>
  {/if}
  <div class="px-5"><DraftNotice draft={kept} class="mb-3" /></div>
  <Customer {typed} {refused} filling={!edit && !copy} onfilled={next} />

  <Stops bind:stops={typed.stops} {refused} onmade={next} />
  <FreightLines bind:freight={typed.freight} equipment={typed.equipment} {refused} />
  {#if !edit || session.may('rates.see')}<Charges {typed} {refused} {miles} {road} bind:emptyMiles {price} />{/if}
  <References {typed} {refused} />

  <Part title="Instructions">
    <div class="grid grid-cols-2 gap-2">
      <TextField
        label="Driver instructions"
        bind:value={typed.forDriver}
        lines={2}
        maxlength={4000}
        problem={at('driverInstructions')}
      />
      <TextField
        label="Carrier instructions, on the rate confirmation"
        bind:value={typed.forCarrier}
        lines={2}
        maxlength={4000}
        problem={at('carrierInstructions')}
      />
    </div>
  </Part>

  <div class="bg-panel border-line sticky bottom-0 mt-2 flex flex-col gap-2 border-t px-5 pt-3">
    {#if others.length > 0}
      <Notice title="Cannot save yet"
        >{#each others as p (p.message)}<p>{p.message}</p>{/each}</Notice
      >
    {:else if refused}
      <p class="text-ember-word text-sm" role="alert">
        {refused.problems.length === 1 ? 'One field needs' : `${refused.problems.length} fields need`} attention.
      </p>
    {/if}
    <div class="flex items-center gap-2">
      <Button look="main" type="submit" busy={busy === 'book'}
        >{booked
          ? `Save ${edit!.sheet.load.number}`
          : !price || price.total.amount === '0.00'
            ? 'Book load'
            : `Book load for ${said(price.total)}`}</Button
      >
      {#if !booked}<Button busy={busy === 'draft'} onclick={() => send(true)}>Save as draft</Button>{/if}
      <span class="text-mute ml-auto text-sm"><Key>Ctrl Enter</Key> from any field</span>
    </div>
  </div>
</form>
