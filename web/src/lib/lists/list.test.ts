import { describe, expect, it } from 'vitest';
import { inWindow, numeric, opsFor, formatCell, widthOf, type Column } from './list';

const column = (kind: string, id = 'x'): Column => ({ id, title: id, kind, shown: true }) as Column;

describe('a list', () => {
  it('renders the rows in view with a margin, and never more than there are', () => {
    expect(inWindow(0, 600, 30, 100_000)).toEqual([0, 40]);
    expect(inWindow(1_500_000, 600, 30, 100_000)).toEqual([49_980, 50_040]);
    expect(inWindow(2_999_400, 600, 30, 100_000)).toEqual([99_960, 100_000]);
    expect(inWindow(0, 600, 44, 3)).toEqual([0, 3]);
    expect(inWindow(0, 600, 30, 0)).toEqual([0, 0]);
  });

  it('formats each kind of cell for the reader', () => {
    expect(formatCell(1234.5, column('money'))).toBe('1,234.50');
    expect(formatCell(38400, column('number'))).toBe('38,400');
    expect(formatCell('2026-11-24', column('date'))).toBe('Tue Nov 24');
    expect(formatCell('car_hauler', column('choice'))).toBe('car hauler');
    expect(formatCell(true, column('yes_no'))).toBe('yes');
    expect(formatCell(false, column('yes_no'))).toBe('');
    expect(formatCell(null, column('money'))).toBe('');
    expect(formatCell(undefined, column('text'))).toBe('');
  });

  it('offers only meaningful comparisons', () => {
    expect(opsFor(column('text')).map((o) => o.value)).toEqual(['has', 'is', 'not', 'filled', 'empty']);
    expect(opsFor(column('choice')).map((o) => o.value)).not.toContain('has');
    expect(opsFor(column('money')).map((o) => o.label)).toContain('at least');
    expect(opsFor(column('time')).map((o) => o.label)).toContain('from');
    expect(opsFor(column('yes_no'))).toHaveLength(1);
    expect(opsFor(undefined)).toHaveLength(2);
  });

  it('gives numbers a fixed width and text the rest', () => {
    expect(numeric(column('money'))).toBe(true);
    expect(numeric(column('date'))).toBe(false);
    expect(widthOf(column('number'))).toMatch(/px$/);
    expect(widthOf(column('text', 'customer'))).toContain('1fr');
  });
});
