<script lang="ts">
  import LoadSheet from '../loads/LoadSheet.svelte';
  import Sheet from '$ui/Sheet.svelte';
  import MoveForm from './MoveForm.svelte';
  import PlanDriver from './PlanDriver.svelte';
  import PlanUnit from './PlanUnit.svelte';
  import type { Planner } from './planner.svelte';

  /** Beside the plan: a load, a driver, a truck or trailer, or a new move. */
  interface Props {
    planner: Planner;
    may: boolean;
    /** What the address asks for; a move is of a trailer, or new. */
    asked: { load: number | null; driver: number | null; unit: string | null; move: string | null };
    /** Asks for something else, or nothing. */
    onask: (more: Record<string, string>) => void;
    onchanged: () => Promise<void>;
  }
  let { planner, may, asked, onask, onchanged }: Props = $props();
  const board = $derived(planner.board);
  const driver = $derived(
    planner.rows.find((r) => r.driver?.id === asked.driver)?.driver ??
      board?.drivers.find((d) => d.id === asked.driver) ??
      null,
  );
  const unit = $derived(planner.plain.find((r) => r.key === asked.unit && !r.driver) ?? null);
  const close = () => onask({});
</script>

{#if asked.move && may && board}
  <Sheet label="new move" onclose={close}>
    {#key asked.move}
      <MoveForm
        trailers={board.trailers}
        drivers={board.drivers}
        first={Number(asked.move) || null}
        oncancel={close}
        ondone={async () => {
          close();
          await onchanged();
        }}
      />
    {/key}
  </Sheet>
{:else if asked.load}
  <Sheet label="load" onclose={close}><LoadSheet id={asked.load} /></Sheet>
{:else if driver}
  <Sheet label="driver" onclose={close}><PlanDriver {driver} {may} {onchanged} /></Sheet>
{:else if unit}
  <Sheet label={unit.by === 'trucks' ? 'truck' : 'trailer'} onclose={close}
    ><PlanUnit
      row={unit}
      at={planner.unitAt(unit)}
      {may}
      {onchanged}
      onmove={(id) => onask({ move: String(id) })}
    /></Sheet
  >
{/if}
