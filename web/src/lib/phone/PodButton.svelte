<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { documentLabels } from '$lib/loads/labels';

  /** Takes a photo of a load's first missing document. */
  interface Props {
    load: Schemas['MyLoad'];
    busy: boolean;
    onfile: (file: File | undefined) => void;
  }
  let { load: l, busy, onfile }: Props = $props();
</script>

<label
  class="border-lark text-lark focus-within:outline-lark flex h-14 cursor-pointer items-center justify-center rounded-lg border-2 text-lg font-bold focus-within:outline-2"
>
  {busy
    ? 'Sending …'
    : l.wanted.length === 0 && l.documents.some((p) => p.kind === 'pod')
      ? 'Another photo of the POD'
      : `Photograph the ${documentLabels[l.wanted[0] ?? 'pod']} for ${l.number}`}
  <input
    type="file"
    class="sr-only"
    accept="image/*,application/pdf"
    capture="environment"
    aria-label="POD for {l.number}:  take a photo or choose a scan"
    onchange={(e) => {
      onfile(e.currentTarget.files?.[0]);
      e.currentTarget.value = '';
    }}
  />
</label>
