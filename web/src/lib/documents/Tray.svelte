<script lang="ts">
  import { api, sendFile, take, type Schemas } from '$lib/api/client';
  import { latest } from '$lib/api/latest';
  import { documentLabels } from '$lib/loads/labels';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { localAt, formatLocal } from '$lib/time/when';
  import { takesText, listStep } from '$ui/keys';
  import Button from '$ui/Button.svelte';
  import Key from '$ui/Key.svelte';
  import Picker from '$ui/Picker.svelte';

  /**
   * The tray: one document at a time next to the list. A digit sets its kind, its load is typed or suggested, Enter files it and
   * shows the next.
   */
  const kinds = ['pod', 'bol', 'scale_ticket', 'lumper_receipt', 'carrier_bill', 'photo', 'other'] as const;
  type Load = { id: number; number: string; what: string };
  let papers = $state.raw<Schemas['TrayDocument'][] | null>(null);
  let at = $state(0);
  let kind = $state<string>('pod');
  let load = $state<Load | null>(null);
  let busy = $state(false);
  let drop = $state(false);
  let panel = $state<HTMLElement>();
  const paper = $derived(papers?.[at] ?? null);
  const read = latest(
    () => take(api.GET('/api/documents/tray')),
    (answer) => {
      papers = answer;
      at = Math.max(0, Math.min(at, answer.length - 1));
    },
    showError,
  );
  $effect(() => {
    void read();
    return live.follow(read, ['documents']);
  });
  let shown = 0;
  $effect(() => {
    if (!paper || paper.document.id === shown) return;
    shown = paper.document.id;
    kind = paper.document.kind;
    load = paper.suggestedLoadId
      ? { id: paper.suggestedLoadId, number: paper.suggestedNumber ?? '', what: paper.suggestedLane ?? '' }
      : null;
  });
  const find = async (typed: string): Promise<Load[]> =>
    typed.trim()
      ? (await take(api.GET('/api/line', { params: { query: { q: typed } } }))).found
          .filter((f) => f.kind === 'load')
          .map((f) => ({ id: f.id, number: f.title, what: f.subtitle }))
      : [];
  async function sort() {
    if (!paper || !load || busy) return;
    busy = true;
    const [id, name, to] = [paper.document.id, paper.document.fileName, load];
    try {
      await take(
        api.POST('/api/documents/{id}/assign', {
          params: { path: { id } },
          body: { loadId: to.id, kind: kind as Schemas['DocumentKind'] },
        }),
      );
      showDone(`${name} filed to ${to.number} as ${documentLabels[kind]}.`, () =>
        take(api.POST('/api/documents/{id}/unassign', { params: { path: { id } } })).then(read),
      );
      await read();
      panel?.focus();
    } catch (e) {
      showError(e);
    } finally {
      busy = false;
    }
  }
  async function throwOut() {
    if (!paper) return;
    const { id, fileName } = paper.document;
    try {
      await take(api.POST('/api/documents/{id}/remove', { params: { path: { id } } }));
      showDone(`${fileName} removed.`, () =>
        take(api.POST('/api/documents/{id}/restore', { params: { path: { id } } })).then(read),
      );
      await read();
    } catch (e) {
      showError(e);
    }
  }
  async function add(files: FileList | null | undefined) {
    for (const file of files ?? [])
      await sendFile(`/api/documents/tray?name=${encodeURIComponent(file.name)}`, file).catch(showError);
    await read();
  }
  function key(e: KeyboardEvent) {
    const target = e.target as HTMLElement;
    if (e.ctrlKey || e.metaKey || e.altKey || target.closest('[role=dialog]')) return;
    const typing = takesText(target);
    if (e.key === 'Enter' && load && (!typing || (target as HTMLInputElement).value === load.number)) {
      e.preventDefault();
      void sort();
      return;
    }
    if (typing) return;
    const step = listStep(e);
    if (step && papers?.length) at = Math.max(0, Math.min(papers.length - 1, at + step));
    // Plain digits switch rooms; here they work with Shift, and as letters of the kinds: p b s l c h o.
    const letter = {
      p: 'pod',
      b: 'bol',
      s: 'scale_ticket',
      l: 'lumper_receipt',
      c: 'carrier_bill',
      h: 'photo',
      o: 'other',
    }[e.key];
    if (letter) kind = letter;
    if (e.key === 'Delete') void throwOut();
    if (e.key === 't') {
      e.preventDefault();
      panel?.querySelector('input')?.focus();
    }
  }
</script>

<svelte:window onkeydown={key} />
<div class="flex min-h-0 flex-1">
  <div
    class="border-line flex w-[300px] shrink-0 flex-col border-r {drop ? 'bg-lark-tint' : ''}"
    role="region"
    aria-label="Documents to file"
    ondragover={(e) => {
      e.preventDefault();
      drop = true;
    }}
    ondragleave={() => (drop = false)}
    ondrop={(e) => {
      e.preventDefault();
      drop = false;
      void add(e.dataTransfer?.files);
    }}
  >
    <ul class="min-h-0 flex-1 overflow-y-auto">
      {#each papers ?? [] as p, n (p.document.id)}
        <li class="border-line border-b">
          <button
            class="block w-full px-5 py-1.5 text-left {n === at ? 'bg-lark-tint/80' : 'hover:bg-faint/60'}"
            aria-current={n === at}
            onclick={() => (at = n)}
          >
            <span class="block truncate leading-5 font-bold">{p.document.fileName}</span>
            <span class="text-mute block truncate text-sm leading-4"
              >{p.from ?? p.document.addedBy ?? 'uploaded'} · {formatLocal(
                localAt(p.document.addedAt, session.zone),
              )}{p.suggestedNumber ? ` · ${p.suggestedNumber}?` : ''}</span
            >
          </button>
        </li>
      {:else}
        <li class="text-mute px-5 py-6">
          {papers === null
            ? 'Loading …'
            : 'Nothing to file. Documents emailed without a load number arrive here, and files you drop here.'}
        </li>
      {/each}
    </ul>
    {#if session.may('documents.add')}
      <label
        class="text-lark border-line focus-within:outline-lark m-3 cursor-pointer rounded-md border border-dashed p-2 text-center text-sm font-bold focus-within:outline-2"
        >Choose files, or drop them here<input
          type="file"
          multiple
          class="sr-only"
          accept="application/pdf,image/jpeg,image/png"
          onchange={(e) => {
            void add(e.currentTarget.files);
            e.currentTarget.value = '';
          }}
        /></label
      >
    {/if}
  </div>
  <div class="flex min-w-0 flex-1 flex-col p-4" bind:this={panel} tabindex="-1" role="region" aria-label="Document">
    {#if paper}
      <div class="flex flex-wrap items-end gap-3">
        <div class="flex gap-1" role="group" aria-label="Document type">
          {#each kinds as k (k)}
            <button
              class="h-8 rounded-md border px-2 text-sm {kind === k
                ? 'border-lark bg-lark-tint font-bold'
                : 'border-line bg-panel hover:bg-faint'}"
              aria-pressed={kind === k}
              onclick={() => (kind = k)}>{documentLabels[k]}</button
            >
          {/each}
        </div>
        <Picker
          class="w-36"
          label="Load"
          bind:value={load}
          {find}
          name={(l) => l.number}
          detail={(l) => l.what}
          key={(l) => l.id}
          placeholder="number, customer, town …"
        />
        <Button look="main" {busy} disabled={!load || !session.may('documents.add')} onclick={sort}
          >File to {load?.number ?? '…'}</Button
        >
        <Button look="quiet" disabled={!session.may('documents.add')} onclick={throwOut}>Remove</Button>
      </div>
      <p class="text-mute mt-1 mb-2 text-sm">
        {#if load}{load.what}{paper.suggestedLoadId === load.id && paper.suggestedWhy
            ? ` — ${paper.suggestedWhy}`
            : ''}{:else}{paper.suggestedWhy ?? 'No known number found on it.'}{/if}
        {#if paper.subject}· email: {paper.subject}{/if}
        · <Key>p</Key>
        <Key>b</Key>
        <Key>s</Key> … type, <Key>t</Key> load, <Key>Enter</Key> file, <Key>Delete</Key> remove
      </p>
      {#if paper.document.mediaType === 'application/pdf'}
        <iframe
          class="border-line min-h-0 flex-1 rounded-md border bg-white"
          title={paper.document.fileName}
          src="/api/documents/{paper.document.id}/file#toolbar=0"
        ></iframe>
      {:else}
        <div class="min-h-0 flex-1 overflow-auto">
          <img class="max-w-full" src="/api/documents/{paper.document.id}/file" alt={paper.document.fileName} />
        </div>
      {/if}
    {/if}
  </div>
</div>
