<script lang="ts">
  import { takesText } from '$ui/keys';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, moneyKey, take, type Schemas } from '$lib/api/client';
  import { doEach } from '$lib/lists/each';
  import List from '$lib/lists/List.svelte';
  import LoadForm from '$lib/loads/LoadForm.svelte';
  import LoadSheet from '$lib/loads/LoadSheet.svelte';
  import { lane } from '$lib/loads/labels';
  import { figure } from '$lib/money';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatLocal } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Head from '$ui/Head.svelte';
  import Key from '$ui/Key.svelte';
  import Sheet from '$ui/Sheet.svelte';
  import Slate from '$ui/Slate.svelte';

  let drafts = $state<Schemas['LoadLine'][] | null>(null);
  let latest = $state<Schemas['LoadLine'][]>([]);
  let editing = $state<Schemas['LoadSheetView'] | null>(null);
  const tab = $derived(page.url.searchParams.get('tab') ?? 'lately');
  const open = $derived(Number(page.url.searchParams.get('load')) || null);
  const edit = $derived(Number(page.url.searchParams.get('edit')) || null);
  const copy = $derived(Number(page.url.searchParams.get('copy')) || null);
  const making = $derived(page.url.searchParams.has('new'));

  async function load() {
    try {
      const [d, n] = await Promise.all([
        take(api.GET('/api/loads', { params: { query: { view: 'drafts' } } })),
        take(api.GET('/api/loads', { params: { query: { view: 'all', limit: 60 } } })),
      ]);
      drafts = d.rows;
      latest = n.rows.filter((l) => l.load.state !== 'draft');
    } catch (e) {
      showError(e);
    }
  }
  $effect(() => {
    void load();
    return live.follow(load, ['loads']);
  });
  $effect(() => {
    const id = edit ?? copy;
    editing = null;
    if (!id) return;
    const read = () =>
      take(api.GET('/api/loads/{id}', { params: { path: { id } } }))
        .then((v) => (editing = v))
        .catch(showError);
    void read();
    // Others' changes are shown next to what is being typed.
    if (edit) return live.follow(read, (e) => e.loadId === id);
  });
  const to = (q: string) =>
    void goto(`/book${tab === 'all' ? `${q || '?'}&tab=all`.replace('?&', '?') : q}`, {
      keepFocus: true,
      noScroll: true,
    });
  let billing = $state(false);
  /** An invoice for each selected load; those that cannot be billed are listed, the others are billed. */
  async function billMany(keys: number[], clear: () => void) {
    billing = true;
    await doEach(
      keys,
      (id) =>
        take(
          api.POST('/api/invoices', { body: { loadIds: [id], termsDays: null, mailTo: null }, headers: moneyKey() }),
        ),
      (n) => `${n} billed.`,
    );
    billing = false;
    clear();
  }
  function key(e: KeyboardEvent) {
    const target = e.target as HTMLElement;
    if (e.key !== 'n' || takesText(target) || e.ctrlKey || e.metaKey || e.altKey) return;
    if (!session.may('loads.book')) return;
    e.preventDefault();
    to('?new');
  }
  // A new sheet starts in its first field.
  const begin = (node: HTMLElement) => node.querySelector<HTMLElement>('input')?.focus();
</script>

<svelte:window onkeydown={key} />
<svelte:head><title>Book · Steady Lark</title></svelte:head>
<div class="flex h-full">
  <section class="flex min-w-0 flex-1 flex-col">
    <Head
      title="Book"
      tabs={[
        { id: 'lately', label: 'Drafts and recent' },
        { id: 'all', label: 'All loads' },
      ]}
      {tab}
      ontab={(t) => void goto(t === 'all' ? '/book?tab=all' : '/book', { keepFocus: true, noScroll: true })}
    >
      {#if session.may('loads.book')}<Button look="main" onclick={() => to('?new')}>New load</Button><Key>n</Key>{/if}
    </Head>
    {#if tab === 'all'}
      <div class="min-h-0 flex-1">
        <List list="loads" {open} onopen={(id) => to(`?load=${id}`)}>
          {#snippet actions(keys, clear)}
            {#if session.may('billing.invoice')}<Button small busy={billing} onclick={() => billMany(keys, clear)}
                >Bill {keys.length} loads</Button
              >{/if}
          {/snippet}
        </List>
      </div>
    {/if}
    <div class="min-h-0 flex-1 overflow-y-auto pt-2" hidden={tab === 'all'}>
      <Slate
        label="Drafts and recently booked"
        groups={[
          { title: 'Drafts', urgency: 'soon', rows: drafts ?? [] },
          { title: 'Recently booked', rows: latest },
        ]}
        key={(l) => l.load.id}
        open={open ?? edit}
        onopen={(l) =>
          to(l.load.state === 'draft' && session.may('loads.book') ? `?edit=${l.load.id}` : `?load=${l.load.id}`)}
        changed={(l) => !!live.changed[l.load.id]}
        loading={drafts === null}
        empty="No loads yet. Press n or use the button above to book one."
      >
        {#snippet row(l)}
          <span class="flex h-11 items-center pr-4 pl-5">
            <span class="fig w-[54px] shrink-0 font-bold">{l.load.number}</span>
            <span class="min-w-0 flex-1 pr-3">
              <span class="block truncate leading-5 font-bold">{lane(l.load)}</span>
              <span class="text-mute block truncate text-sm leading-4"
                >{l.load.customer ?? 'no customer yet'}{l.load.freight ? ` · ${l.load.freight}` : ''}</span
              >
            </span>
            <span class="text-mute w-36 shrink-0 truncate text-sm"
              >{l.load.stops[0]?.from ? formatLocal(l.load.stops[0].from) : 'no appointment yet'}</span
            >
            <span class="w-20 shrink-0 text-sm"
              >{#if l.load.held && (l.load.state === 'booked' || l.load.state === 'draft')}<b class="text-marigold-word"
                  >on hold</b
                >{:else}{l.load.state}{/if}</span
            >
            <span class="fig w-24 shrink-0 text-right">{figure(l.load.revenue)}</span>
          </span>
        {/snippet}
      </Slate>
    </div>
  </section>
  {#if making}
    <Sheet label="new load" wide onclose={() => to('')}>
      <div {@attach begin}><LoadForm onbooked={(id) => to(`?load=${id}`)} /></div>
    </Sheet>
  {:else if copy}
    <Sheet label="copy of a load" wide onclose={() => to('')}>
      {#if editing}<div {@attach begin}><LoadForm copy={editing} onbooked={(id) => to(`?load=${id}`)} /></div>{:else}<p
          class="text-mute p-5"
        >
          Loading …
        </p>{/if}
    </Sheet>
  {:else if edit}
    <Sheet label="edit load" wide onclose={() => to('')}>
      {#if editing}<LoadForm edit={editing} onbooked={(id) => to(`?load=${id}`)} />{:else}<p class="text-mute p-5">
          Loading …
        </p>{/if}
    </Sheet>
  {:else if open}
    <Sheet label="load" onclose={() => to('')}>
      <LoadSheet id={open}>
        {#snippet top(view)}
          {#if view.sheet.load.state === 'booked' && session.may('loads.cover')}
            <div class="px-5 pb-3">
              <Button look="main" onclick={() => goto(`/cover?load=${open}`)}>Cover</Button>
            </div>
          {/if}
        {/snippet}
      </LoadSheet>
    </Sheet>
  {/if}
</div>
