<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { latest } from '$lib/api/latest';
  import { documentLabels } from '$lib/loads/labels';
  import History from '$lib/loads/sheet/History.svelte';
  import { onChange } from '$lib/state/change.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import Part from '$ui/Part.svelte';

  /** The documents of a trip's loads, and what happened to them. */
  let { trip }: { trip: number } = $props();
  let records = $state<Schemas['TripRecords'] | null>(null);
  const load = latest(
    () => take(api.GET('/api/trips/{id}/records', { params: { path: { id: trip } } })),
    (answer) => (records = answer),
    showError,
  );
  onChange(
    () => trip,
    () => {
      records = null;
      void load();
      return live.follow(load, ['loads', 'documents']);
    },
  );
</script>

{#if records}
  <Part title="Documents">
    <ul class="text-sm">
      {#each records.documents as d (d.document.id)}
        <li class="border-line flex gap-3 border-b py-1">
          <span class="fig w-14 shrink-0">{d.load}</span>
          <a class="text-lark min-w-0 flex-1 truncate underline" href="/api/documents/{d.document.id}/file"
            >{documentLabels[d.document.kind] ?? d.document.kind}</a
          >
          <span class="text-mute truncate">{d.document.fileName}</span>
        </li>
      {:else}<li class="text-mute">None of its loads has a document.</li>{/each}
    </ul>
  </Part>
  <History of={trip} events={records.events} />
{/if}
