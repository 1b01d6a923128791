import { describe, expect, it } from 'vitest';
import { ticks, xOf, type Axis } from './axis';

const HOUR = 3_600_000;
const denver = 'America/Denver';
const axis = (from: string, hours: number, width: number): Axis => ({
  from: Date.parse(from),
  until: Date.parse(from) + hours * HOUR,
  width,
});

describe('a time axis', () => {
  it('puts its ends at its ends', () => {
    const a = axis('2026-11-24T07:00:00Z', 48, 500);
    expect([xOf(a, a.from), xOf(a, a.from + 24 * HOUR), xOf(a, a.until)]).toEqual([0, 250, 500]);
  });

  it('names midnights of the reader’s zone, and noon where there is room', () => {
    // From Tuesday midnight in Denver.
    const wide = ticks(axis('2026-11-24T07:00:00Z', 48, 400), denver);
    expect(wide.map((t) => [t.label, t.strong])).toEqual([
      ['Tue 24', true],
      ['12', false],
      ['Wed 25', true],
      ['12', false],
      ['Thu 26', true],
    ]);
    expect(wide[2].x).toBe(200);
  });

  it('shows six-hour lines on a very wide axis and only days on a narrow one', () => {
    expect(ticks(axis('2026-11-24T07:00:00Z', 24, 300), denver).map((t) => t.label)).toEqual([
      'Tue 24',
      '06',
      '12',
      '18',
      'Wed 25',
    ]);
    expect(ticks(axis('2026-11-24T07:00:00Z', 72, 180), denver).map((t) => t.label)).toEqual([
      'Tue',
      'Wed',
      'Thu',
      'Fri',
    ]);
  });

  it('keeps midnight at midnight when clocks move back', () => {
    // November 1, 2026 has 25 hours in Denver.
    const marks = ticks(axis('2026-11-01T06:00:00Z', 49, 490), denver).filter((t) => t.strong);
    expect(marks.map((t) => t.label)).toEqual(['Sun 1', 'Mon 2', 'Tue 3']);
    expect(marks.map((t) => Math.round(t.x))).toEqual([0, 250, 490]);
  });

  it('labels never overlap: a label has at least 24 pixels to the next', () => {
    for (const hours of [24, 48, 72, 120, 240, 480, 960])
      for (const width of [180, 240, 360, 520, 900]) {
        const named = ticks(axis('2026-11-20T03:00:00Z', hours, width), denver).filter((t) => t.label);
        for (let i = 1; i < named.length; i++)
          expect(named[i].x - named[i - 1].x, `${hours} h on ${width} px`).toBeGreaterThanOrEqual(22);
      }
  });

  it('shows Mondays on an axis of weeks', () => {
    const weeks = ticks(axis('2026-10-14T00:00:00Z', 24 * 70, 520), denver);
    expect(
      weeks.every((t) => new Date(Date.parse('2026-10-14') + (t.x / 520) * 70 * 24 * HOUR).getUTCDay() === 1),
    ).toBe(true);
    expect(weeks.filter((t) => t.label)).toHaveLength(Math.ceil(weeks.length / 2));
  });
});
