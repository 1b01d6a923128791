<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { cents } from '$lib/money';
  import { formatWeekday } from '$lib/time/when';

  /** Pay over the week as a stepped line, with advances below. */
  let { week }: { week: Schemas['SettlementView'] } = $props();
  const W = 520;
  const H = 150;
  const DAY = 86_400_000;
  const start = $derived(Date.parse(`${week.monday}T00:00:00Z`));
  const days = $derived(Array.from({ length: 7 }, (_, i) => new Date(start + i * DAY).toISOString().slice(0, 10)));
  const perDay = $derived(
    days.map((d) =>
      week.lines.filter((l) => l.kind !== 'per_day' && l.on === d).reduce((a, l) => a + cents(l.amount), 0),
    ),
  );
  const drawn = $derived(
    days.map((d) => week.advances.filter((x) => x.on === d).reduce((a, x) => a + cents(x.amount), 0)),
  );
  const top = $derived(
    Math.max(
      1,
      cents(week.earned),
      drawn.reduce((a, n) => a + n, 0),
    ),
  );
  const x = (i: number) => (i / 7) * W;
  const y = $derived((n: number) => H - 8 - (n / top) * (H - 34));
  function steps(list: number[], to: (n: number) => number): string {
    let total = 0;
    let d = `M0 ${to(0)}`;
    list.forEach((n, i) => {
      d += `H${x(i) + x(1) * 0.6}`;
      total += n;
      d += `V${to(total)}`;
    });
    return d + `H${W}`;
  }
  const perDiemAtEnd = $derived(
    week.lines.filter((l) => l.kind === 'per_day').reduce((a, l) => a + cents(l.amount), 0),
  );
</script>

<svg viewBox="0 0 {W} {H + 4}" class="w-full" role="img" aria-label="Earnings by day">
  {#each days as day, i (day)}
    <line x1={x(i)} x2={x(i)} y1="18" y2={H} stroke="var(--faint)" />
    <text x={x(i) + 3} y="11" font-size="11" fill="var(--mute)" class="fig">{formatWeekday(day)}</text>
  {/each}
  <line x1="0" x2={W} y1={y(0)} y2={y(0)} stroke="var(--line)" />
  {#if drawn.some((n) => n > 0)}
    <path d={steps(drawn, y)} fill="none" stroke="var(--moss)" stroke-width="1.8" stroke-dasharray="4 3" />
    <text
      x={W - 4}
      y={y(drawn.reduce((a, n) => a + n, 0)) - 5}
      text-anchor="end"
      font-size="11"
      font-weight="700"
      fill="var(--moss-word)">advances</text
    >
  {/if}
  <path
    d={steps(
      perDay.map((n, i) => n + (i === 6 ? perDiemAtEnd : 0)),
      y,
    )}
    fill="none"
    stroke="var(--ink)"
    stroke-width="2"
  />
  <text x={W - 4} y={y(cents(week.earned)) - 5} text-anchor="end" font-size="11" font-weight="700" fill="var(--ink)"
    >earned</text
  >
</svg>
