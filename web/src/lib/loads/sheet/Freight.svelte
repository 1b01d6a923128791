<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import Part from '$ui/Part.svelte';
  import { freightTermLabels, referenceLabels } from '../labels';

  /** Freight lines, reference numbers, custom fields, office and instructions. */
  let { view }: { view: Schemas['LoadSheetView'] } = $props();
  const size = (f: Schemas['FreightRow']) =>
    f.lengthIn || f.widthIn || f.heightIn
      ? `${f.lengthIn ?? '?'} × ${f.widthIn ?? '?'} × ${f.heightIn ?? '?'} in`
      : null;
  const line = (f: Schemas['FreightRow']) =>
    [
      f.description,
      f.bulk
        ? `${f.bulk.gallons.toLocaleString('en-US')} gal${f.bulk.ownCompartments ? ', own compartments' : ''}`
        : null,
      f.pieces && !f.vehicle ? `${f.pieces.toLocaleString('en-US')} pieces` : null,
      f.pallets ? `${f.pallets} pallets` : null,
      f.weightLb ? `${f.weightLb.toLocaleString('en-US')} lb` : null,
      size(f),
      f.stackable ? 'stackable' : null,
      f.ratedClass ? `class ${f.ratedClass}` : null,
      f.density ? `${f.density} lb/ft³` : null,
      f.temperatureF !== null ? `${f.temperatureF} °F` : null,
    ]
      .filter(Boolean)
      .join(' · ');
  const numbers = $derived([
    ...(view.sheet.load.reference ? [['Customer reference', view.sheet.load.reference]] : []),
    ...view.sheet.references.map((r) => [
      `${referenceLabels[r.kind ?? 'other']}${r.stop ? `, ${view.sheet.load.stops[r.stop - 1]?.town ?? `stop ${r.stop}`}` : ''}`,
      r.value,
    ]),
    ...(view.sheet.load.billTo ? [['Bill to', view.sheet.load.billTo]] : []),
    ...(view.sheet.load.freightTerms ? [['Freight terms', freightTermLabels[view.sheet.load.freightTerms]]] : []),
    ...view.sheet.customFields.map((o) => [o.name, o.value]),
    ...(view.sheet.office ? [['Office', view.sheet.office]] : []),
  ]);
</script>

{#if view.sheet.freight.length > 0 || numbers.length > 0}
  <Part title="Freight and references">
    {#snippet aside()}
      {#if view.sheet.load.state !== 'draft'}<a
          class="text-lark text-sm font-bold hover:underline"
          href="/api/loads/{view.sheet.load.id}/bol"
          target="_blank"
          rel="noopener">BOL</a
        >{/if}
    {/snippet}
    {#each view.sheet.freight as f, i (i)}
      <p>
        {line(f)}{#if f.hazmat}<b class="text-marigold-word ml-1.5"
            >hazmat {[f.unNumber, f.hazmatName, f.hazardClass, f.packingGroup && `PG ${f.packingGroup}`]
              .filter(Boolean)
              .join(', ')}</b
          >{#if f.hazmatLacks}<span class="text-mute block text-sm">missing on the shipping paper: {f.hazmatLacks}</span
            >{/if}{/if}
      </p>
    {/each}
    {#if numbers.length > 0}
      <dl class="mt-1.5 grid grid-cols-[auto_1fr] gap-x-3 text-sm">
        {#each numbers as [name, value], i (i)}
          <dt class="text-mute">{name}</dt>
          <dd class="fig min-w-0 break-words">{value}</dd>
        {/each}
      </dl>
    {/if}
  </Part>
{/if}
{#if view.sheet.driverInstructions}
  <Part title="Driver instructions"><p class="text-sm whitespace-pre-wrap">{view.sheet.driverInstructions}</p></Part>
{/if}
{#if view.sheet.carrierInstructions}
  <Part title="Carrier instructions"><p class="text-sm whitespace-pre-wrap">{view.sheet.carrierInstructions}</p></Part>
{/if}
