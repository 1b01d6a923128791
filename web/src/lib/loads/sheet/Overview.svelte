<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { referenceLabels } from '../labels';

  /** Freight and reference numbers. */
  let { view }: { view: Schemas['LoadSheetView'] } = $props();
  const size = (f: Schemas['FreightRow']) =>
    f.lengthIn || f.widthIn || f.heightIn
      ? `${f.lengthIn ?? '?'} × ${f.widthIn ?? '?'} × ${f.heightIn ?? '?'} in`
      : null;
  const line = (f: Schemas['FreightRow']) =>
    [
      f.description,
      f.pieces ? `${f.pieces.toLocaleString('en-US')} pieces` : null,
      f.pallets ? `${f.pallets} pallets` : null,
      f.weightLb ? `${f.weightLb.toLocaleString('en-US')} lb` : null,
      size(f),
      f.temperatureF !== null ? `${f.temperatureF} °F` : null,
    ]
      .filter(Boolean)
      .join(' · ');
  const numbers = $derived([
    ...(view.sheet.load.reference ? [['Customer reference', view.sheet.load.reference]] : []),
    ...view.sheet.references.map((r) => [referenceLabels[r.kind ?? 'other'], r.value]),
    ...view.sheet.customFields.map((o) => [o.name, o.value]),
  ]);
</script>

{#each view.sheet.freight as f, i (i)}
  <p class="text-mute text-sm">
    {line(f)}{#if f.hazmat}<b class="text-marigold-word ml-1.5">hazmat {f.unNumber ?? ''}</b>{/if}
  </p>
{/each}
{#if numbers.length > 0}
  <dl class="mt-1.5 grid grid-cols-[auto_1fr] gap-x-3 text-sm">
    {#each numbers as [name, value], i (i)}
      <dt class="text-mute">{name}</dt>
      <dd class="fig min-w-0 truncate">{value}</dd>
    {/each}
  </dl>
{/if}
