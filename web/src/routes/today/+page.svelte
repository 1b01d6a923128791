<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, take, type Schemas } from '$lib/api/client';
  import { cents, figure } from '$lib/money';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDay, formatLocal, localAt } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Head from '$ui/Head.svelte';
  import Sheet from '$ui/Sheet.svelte';

  const view = $derived(live.today);
  let mail = $state<Schemas['MailView'] | null>(null);
  const mailId = $derived(Number(page.url.searchParams.get('mail')) || null);

  // The spine keeps it fresh; here it is reloaded only on entering.
  $effect(() => void live.glance().then((known) => (known ? undefined : live.refresh().catch(showError))));
  $effect(() => {
    mail = null;
    if (mailId)
      take(api.GET('/api/emails/{id}', { params: { path: { id: mailId } } }))
        .then((m) => (mail = m))
        .catch(showError);
  });

  const where = (i: Schemas['TodayItem']) =>
    i.open === 'mail'
      ? `/today?mail=${i.openId}`
      : i.open === 'tray'
        ? '/bill?tab=documents'
        : i.open === 'trip'
          ? `/trip/${i.openId}`
          : i.kind === 'handed_back'
            ? `/load/${i.openId}`
            : i.room === 'pay'
              ? i.open === 'weeks'
                ? '/pay'
                : i.open === 'expenses'
                  ? '/pay?tab=expenses'
                  : `/pay?tab=bills${i.openId ? `&bill=${i.openId}` : ''}`
              : `/${i.room}${i.openId ? `?${i.open}=${i.openId}` : ''}`;
  const colours = { none: 'text-mute', soon: 'text-marigold-word font-bold', now: 'text-ember-word font-bold' };
  const rooms: Record<string, string> = {
    roll: 'Roll',
    book: 'Book',
    cover: 'Cover',
    bill: 'Bill',
    pay: 'Pay',
    today: 'Email',
  };
  const most = $derived(Math.max(1, ...(view?.week ?? []).map((d) => cents(d.revenue))));

  async function done() {
    await take(api.POST('/api/emails/{id}/done', { params: { path: { id: mailId! } } })).catch(showError);
    showDone('Email marked done.');
    await goto('/today');
    await live.refresh().catch(showError);
  }
  /** Counts for the rooms the user may enter. */
  const waiting = $derived<[string, number, string][]>(
    view
      ? [
          ['Drafts', view.counts.book, '/book'],
          ['Uncovered', view.counts.cover, '/cover'],
          ['Moving', view.counts.roll, '/roll'],
          ...(session.may('billing.see')
            ? ([['To bill, or overdue', view.counts.bill, '/bill']] as [string, number, string][])
            : []),
          ...(session.may('paying.see')
            ? ([['To approve or pay', view.counts.pay, '/pay']] as [string, number, string][])
            : []),
        ]
      : [],
  );
</script>

<svelte:head><title>Today · Steady Lark</title></svelte:head>
<div class="flex h-full">
  <section class="min-w-0 flex-1 overflow-y-auto">
    <Head title="Today" />
    {#if view === null}
      <p class="text-mute px-5 py-6" role="status">Loading …</p>
    {:else if view.items.length === 0}
      <p class="text-mute max-w-prose px-5 py-6">
        Nothing needs attention. Late, uncovered, ready-to-bill, overdue and due items appear here.
      </p>
    {:else}
      <ul class="pt-2 pr-4 pl-5">
        {#each view.items as item, i (item.kind + item.openId + i)}
          <li class="border-line flex min-h-[54px] items-center gap-4 border-b py-1.5">
            <span class="w-[122px] shrink-0 text-sm {colours[item.urgency]}">{item.when}</span>
            <span class="min-w-0 flex-1">
              <a class="block truncate font-bold hover:underline" href={where(item)}>{item.title}</a>
              <span class="text-mute block truncate text-sm">{item.detail}</span>
            </span>
            <Button small look={item.urgency === 'now' ? 'main' : 'plain'} onclick={() => goto(where(item))}
              >{item.button}</Button
            >
            <span class="text-mute w-10 shrink-0 text-right text-sm">{rooms[item.room]}</span>
          </li>
        {/each}
      </ul>
    {/if}
  </section>
  {#if mailId}
    <Sheet label="email" onclose={() => goto('/today')}>
      {#if mail}
        <div class="p-5 pr-12">
          <h2 class="text-lg font-bold">{mail.subject}</h2>
          <p class="text-mute text-sm">from {mail.from}, {formatLocal(localAt(mail.at, session.zone))}</p>
          <p class="mt-4 whitespace-pre-wrap">{mail.text}</p>
          {#each mail.files as file (file.name)}<p class="mt-2 text-sm">
              Attachment: {file.name}, {Math.ceil(file.size / 1024)} kB
            </p>{/each}
          {#if session.may('documents.add')}<Button look="main" class="mt-5" onclick={done}>Mark done</Button>{/if}
        </div>
      {/if}
    </Sheet>
  {:else if view}
    <aside class="border-line bg-panel w-80 shrink-0 overflow-y-auto border-l p-5 xl:w-[372px]" aria-label="This week">
      <h2 class="text-lg font-bold">This week</h2>
      {#if view.week.some((d) => d.revenue)}
        <p class="text-mute mb-4 text-sm">
          Covered loads by pickup day. The filled part is the cost: carrier pay, or our driver, fuel and truck.
        </p>
        <svg viewBox="0 0 330 150" class="w-full" role="img" aria-label="Revenue and cost by day">
          {#each view.week as day, i (day.on)}
            {@const h = (cents(day.revenue) / most) * 118}
            {@const c = (Math.min(cents(day.cost), cents(day.revenue)) / most) * 118}
            {@const x = 8 + i * 47}
            <rect
              {x}
              y={124 - h}
              width="28"
              height={h}
              fill="var(--panel)"
              stroke="var(--ink)"
              stroke-width={h ? 1.5 : 0}
              stroke-dasharray={day.on > session.today ? '3 2.5' : undefined}
            />
            <rect
              {x}
              y={124 - c}
              width="28"
              height={c}
              fill="var(--ink)"
              opacity={day.on > session.today ? 0.4 : 0.82}
            />
            <line x1={x - 4} x2={x + 32} y1="124" y2="124" stroke="var(--line)" />
            <text
              x={x + 14}
              y="141"
              text-anchor="middle"
              font-size="12"
              class="fig"
              font-weight={day.on === session.today ? 700 : 400}
              fill={day.on === session.today ? 'var(--lark)' : 'var(--mute)'}>{formatDay(day.on).slice(0, 3)}</text
            >
          {/each}
        </svg>
      {/if}
      <dl class="mt-3 grid grid-cols-[1fr_auto] gap-x-3 gap-y-1.5">
        {#if view.weekMargin}<dt>Margin</dt>{/if}
        <dd class="fig text-right" hidden={!view.weekMargin}>
          <b>{figure(view.weekMargin)}</b>
          {#if view.weekMarginPercent != null}<span class="text-mute">{view.weekMarginPercent.toFixed(1)} %</span>{/if}
        </dd>
        <dt>On time, four weeks</dt>
        <dd class="fig text-right"><b>{view.deliveredOnTime} of {view.delivered}</b></dd>
        {#if session.may('billing.see')}<dt>Days to pay</dt>
          <dd class="fig text-right"><b>{view.daysToPay?.toFixed(1) ?? '–'}</b></dd>{/if}
      </dl>
      <div class="border-line mt-5 border-t pt-4">
        <h3 class="text-mute mb-2 text-sm font-bold">Waiting</h3>
        <dl class="grid grid-cols-[1fr_auto] gap-x-3 gap-y-1.5">
          {#each waiting as [label, n, path] (label)}
            <dt><a class="hover:underline" href={path}>{label}</a></dt>
            <dd class="fig text-right font-bold">{n}</dd>
          {/each}
        </dl>
      </div>
    </aside>
  {/if}
</div>
