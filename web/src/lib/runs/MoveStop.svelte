<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import Button from '$ui/Button.svelte';
  import Select from '$ui/Select.svelte';
  import { letter, costOf } from './clock';

  /** Moves the selected stop to another driver or place; first it shows what that costs. */
  interface Props {
    plan: Schemas['RunPlanView'];
    stop: number;
    trying: { driver: number; place: number } | null;
    cost: Schemas['RunChangeView'] | null;
    name: (stop: number) => string;
    busy: boolean;
    offer: (stop: number, driver: number, place: number) => unknown;
    move: () => unknown;
  }
  let { plan, stop, trying, cost, name, busy, offer, move }: Props = $props();
  const driver = $derived(trying?.driver ?? plan.runs.find((r) => r.stops.includes(stop))?.driver ?? 0);
  const others = $derived((plan.runs[driver]?.stops ?? []).filter((s) => s !== stop));
</script>

<div class="border-line bg-paper sticky bottom-0 mt-3 rounded-md border p-3 text-sm">
  <p class="mb-1.5"><b>{name(stop)}</b> moves to</p>
  <div class="flex flex-wrap items-center gap-2">
    <Select
      class="h-8 w-28"
      label="Driver"
      options={plan.runs.map((r) => ({ value: String(r.driver), label: `driver ${letter(r.driver)}` }))}
      value={String(driver)}
      onchange={(v: string) => offer(stop, Number(v), 0)}
    />
    <Select
      class="h-8 w-56"
      label="Before"
      placeholder="before …"
      options={[
        ...others.map((s, i) => ({ value: String(i), label: `before ${name(s)}` })),
        { value: String(others.length), label: 'at the end' },
      ]}
      value={trying ? String(trying.place) : ''}
      onchange={(v: string) => offer(stop, driver, Number(v))}
    />
    {#if trying && cost}
      <span class="fig font-bold">{costOf(cost)}</span>
      <Button small look="main" {busy} onclick={move}>Move</Button>
    {/if}
    <span class="text-mute ml-auto">Alt ↑ ↓, Enter</span>
  </div>
  {#if cost?.breaks}<p class="text-ember-word mt-1">{cost.breaks}</p>{/if}
</div>
