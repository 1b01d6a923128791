<script lang="ts">
  import { equipmentLabels } from '../loads/labels';
  import { said } from '../money';
  import { xOf, type Axis } from '$ui/axis';
  import type { Leg } from './plan';
  import type { Planner } from './planner.svelte';

  /** A load, or a leg of one, that still needs a truck. */
  interface Props {
    leg: Leg;
    planner: Planner;
    axis: Axis;
    may: boolean;
    onopen: () => void;
    ondrag: (leg: Leg | null) => void;
  }
  let { leg, planner, axis, may, onopen, ondrag }: Props = $props();
  const key = $derived(`leg-${leg.legId}`);
  const here = $derived(planner.at?.row === key);
  const picked = $derived(planner.picked?.legs?.some((l) => l.legId === leg.legId) ?? false);
  const selected = $derived(planner.selected.includes(leg.legId));
  const x = (at: string) => Math.max(-8, Math.min(axis.width + 8, xOf(axis, Date.parse(at))));
  const colour = $derived(leg.urgency === 'now' ? 'var(--ember)' : 'var(--ink)');
  const detail = $derived(
    [
      leg.equipment ? equipmentLabels[leg.equipment] : null,
      leg.weightLb ? `${leg.weightLb.toLocaleString('en-US')} lb` : null,
      leg.who ? `tendered to ${leg.who}` : null,
    ]
      .filter(Boolean)
      .join(' · '),
  );
</script>

<div
  class="border-line flex border-b [contain-intrinsic-height:42px] [content-visibility:auto] {picked
    ? 'bg-lark-tint/70'
    : here
      ? 'bg-faint/70'
      : ''}"
  role="row"
  tabindex="-1"
  data-plan={key}
  draggable={may}
  ondragstart={() => ondrag(leg)}
  ondragend={() => ondrag(null)}
>
  <div class="grid w-60 shrink-0 grid-cols-[1.25rem_minmax(0,1fr)] py-0.5 pr-2 pl-5" role="rowheader">
    <input
      type="checkbox"
      class="mt-1.5 size-3.5"
      checked={selected}
      tabindex="-1"
      onchange={() => planner.toggle(leg)}
      aria-label="Select load {leg.load}"
    />
    <div class="min-w-0">
      <button class="block max-w-full truncate text-left hover:underline" onclick={onopen} title={leg.lane}
        >{leg.lane}</button
      >
      <span class="text-mute block truncate text-sm"
        ><span class="fig text-ink font-bold">{leg.load}</span>{detail ? ` · ${detail}` : ''}</span
      >
    </div>
  </div>
  <div class="relative shrink-0" style:width="{axis.width}px" role="gridcell">
    <svg width={axis.width} height="42" class="block overflow-hidden" aria-hidden="true">
      <line x1={x(leg.from)} x2={x(leg.until)} y1="12" y2="12" stroke="var(--line)" stroke-width="3" />
      <line x1={x(leg.dueFrom)} x2={x(leg.dueBy)} y1="32" y2="32" stroke="var(--line)" stroke-width="3" />
      <line
        x1={x(leg.from)}
        x2={x(leg.dueBy)}
        y1="22"
        y2="22"
        stroke="var(--ink)"
        stroke-width="1.6"
        stroke-dasharray="2 4"
      />
      <line x1={x(leg.from)} x2={x(leg.from)} y1="16" y2="22" stroke={colour} stroke-width="1.5" />
      <circle cx={x(leg.from)} cy="12" r="3.8" fill="var(--paper)" stroke={colour} stroke-width="1.7" />
      <line x1={x(leg.dueBy)} x2={x(leg.dueBy)} y1="22" y2="28" stroke="var(--ink)" stroke-width="1.5" />
      <circle cx={x(leg.dueBy)} cy="32" r="3.8" fill="var(--paper)" stroke="var(--ink)" stroke-width="1.7" />
    </svg>
  </div>
  <div class="min-w-0 flex-1 py-0.5 pr-3 pl-1 text-right text-sm" role="gridcell">
    {#if leg.revenue}<span class="fig block">{said(leg.revenue).replace(/\.\d\d$/, '')}</span>{/if}
    <span class="block truncate {leg.urgency === 'now' ? 'text-ember-word font-bold' : 'text-mute'}" title={leg.status}
      >{leg.status}</span
    >
  </div>
</div>
