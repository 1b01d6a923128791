<script lang="ts">
  import { api, sendDocument, take, type Schemas } from '$lib/api/client';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Part from '$ui/Part.svelte';
  import Select from '$ui/Select.svelte';
  import FileText from '@lucide/svelte/icons/file-text';
  import { documentLabels } from '../labels';

  interface Props {
    view: Schemas['LoadSheetView'];
    /** Runs a change and reloads the load. */
    run: (name: string, act: () => Promise<unknown>) => Promise<void>;
    busy: boolean;
  }
  let { view, run, busy }: Props = $props();
  let kind = $state('pod');
  let drop = $state(false);
  const l = $derived(view.sheet.load);
  const deliveries = $derived(l.stops.filter((s) => s.kind === 'delivery' && !s.refusedAt));
  const several = $derived(deliveries.length > 1);
  const townOf = (id: number | null | undefined) => {
    const at = l.stops.find((s) => s.id === id);
    return at ? `${at.town} ${at.region}` : 'all deliveries';
  };
  const lacking = $derived(several && l.state !== 'draft' ? view.withoutPod.map(townOf) : []);
  /** A POD is of one delivery where there are several, or of all: the first that lacks one once one has it. */
  let stop = $derived(several && view.withoutPod.length < deliveries.length ? String(view.withoutPod[0] ?? '') : '');

  async function addDocument(file: File) {
    await run('paper', async () => {
      const paper = await sendDocument(l.id, kind, file, file.name, false, kind === 'pod' && several ? stop : '');
      showDone(`${documentLabels[kind]} added: ${file.name}.`, () =>
        take(api.POST('/api/documents/{id}/remove', { params: { path: { id: paper.id } } })),
      );
    });
  }
  async function putAway(paper: Schemas['DocumentRow']) {
    await run('paper', async () => {
      await take(api.POST('/api/documents/{id}/remove', { params: { path: { id: paper.id } } }));
      showDone(`${documentLabels[paper.kind]} removed: ${paper.fileName}.`, () =>
        take(api.POST('/api/documents/{id}/restore', { params: { path: { id: paper.id } } })),
      );
    });
  }
</script>

<Part title="Documents">
  {#if view.documents.length === 0}<p class="text-mute text-sm">None yet.</p>{/if}
  <ul class="flex flex-col gap-1">
    {#each view.documents as paper (paper.id)}
      <li class="flex items-center gap-2 text-sm">
        <FileText size={15} class="text-mute shrink-0" />
        <a
          class="text-lark truncate font-bold hover:underline"
          href="/api/documents/{paper.id}/file"
          target="_blank"
          rel="noopener"
          >{documentLabels[paper.kind]}{several && paper.kind === 'pod' ? `, ${townOf(paper.stopId)}` : ''}</a
        >
        <span class="text-mute min-w-0 flex-1 truncate"
          >{paper.fileName} · {Math.max(1, Math.round(paper.size / 1024))} kB</span
        >
        {#if session.may('documents.add') && paper.kind !== 'rate_confirmation'}<button
            class="text-mute hover:text-ink underline-offset-2 hover:underline"
            onclick={() => putAway(paper)}>Remove</button
          >{/if}
      </li>
    {/each}
  </ul>
  {#if lacking.length}<p class="text-mute mt-1 text-sm">POD missing: {lacking.join(', ')}</p>{/if}
  {#if session.may('documents.add') && l.state !== 'draft'}
    <div
      role="group"
      aria-label="Add a document"
      class="mt-2 flex items-center gap-2 rounded-md border border-dashed p-2 {drop
        ? 'border-lark bg-lark-tint'
        : 'border-line'}"
      ondragover={(e) => {
        e.preventDefault();
        drop = true;
      }}
      ondragleave={() => (drop = false)}
      ondrop={(e) => {
        e.preventDefault();
        drop = false;
        const file = e.dataTransfer?.files[0];
        if (file) void addDocument(file);
      }}
    >
      <Select
        class="h-8 text-sm"
        label="Document type"
        bind:value={kind}
        options={Object.entries(documentLabels)
          .filter(([k]) => k !== 'rate_confirmation')
          .map(([value, label]) => ({ value, label }))}
      />
      {#if several && kind === 'pod'}
        <Select
          class="h-8 text-sm"
          label="Delivery"
          bind:value={stop}
          options={[
            { value: '', label: 'All deliveries' },
            ...deliveries.map((d) => ({ value: String(d.id), label: `${d.town} ${d.region}` })),
          ]}
        />
      {/if}
      <label class="text-lark focus-within:outline-lark cursor-pointer text-sm font-bold focus-within:outline-2">
        {busy ? 'Adding …' : 'Choose a file'}
        <input
          type="file"
          class="sr-only"
          accept="application/pdf,image/jpeg,image/png"
          aria-label="Choose a file to add as {documentLabels[kind]}"
          onchange={(e) => {
            const file = e.currentTarget.files?.[0];
            if (file) void addDocument(file);
            e.currentTarget.value = '';
          }}
        />
      </label>
      <span class="text-mute text-sm">or drop it here</span>
    </div>
  {/if}
</Part>
