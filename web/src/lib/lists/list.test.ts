import { describe, expect, it } from 'vitest';
import { Layout } from './layout';
import { fitted, formatCell, formatGroup, numeric, opsFor, queryOf, widthOf, type Column, type Shape } from './list';

const column = (kind: string, id = 'x'): Column => ({ id, title: id, kind, shown: true }) as Column;

describe('a list', () => {
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

const shape = (more: Partial<Shape>): Shape => ({
  text: '',
  filters: [],
  sorts: [],
  groups: [],
  columns: [],
  dense: true,
  ...more,
});

describe('a question to the server', () => {
  it('leaves out filters that compare with nothing yet', () => {
    const filters = [
      { column: 'state', op: 'is', values: ['booked', ' '] },
      { column: 'customer', op: 'has', values: [] },
      { column: 'invoice', op: 'empty', values: ['left over'] },
    ];
    expect(queryOf(shape({ filters, text: '  ' }))).toEqual({
      text: null,
      filters: [
        { column: 'state', op: 'is', values: ['booked'] },
        { column: 'invoice', op: 'empty', values: [] },
      ],
      sorts: [],
      groups: [],
      only: null,
    });
  });

  it('drops columns of a shared view that this user does not see', () => {
    const fit = fitted(
      shape({
        filters: [{ column: 'margin', op: 'from', values: ['1'] }],
        sorts: [{ column: 'margin', descending: true }],
        groups: [{ column: 'customer', period: null }],
        columns: ['number', 'margin', 'customer'],
      }),
      [column('text', 'number'), column('text', 'customer')],
    );
    expect(fit.columns).toEqual(['number', 'customer']);
    expect([fit.filters, fit.sorts]).toEqual([[], []]);
    expect(fit.groups).toHaveLength(1);
  });
});

describe('groups', () => {
  const group = (count: number, ...values: unknown[]) => ({ values, sums: { count } });

  it('name their period, and what is missing', () => {
    expect(formatGroup('2026-10-01', column('date'), 'quarter')).toBe('Q4 2026');
    expect(formatGroup('2026-10-01', column('time'), null)).toBe('Oct 2026');
    expect(formatGroup('2026-11-23', column('time'), 'week')).toBe('Week of Mon Nov 23');
    expect(formatGroup('2026-01-01', column('date'), 'year')).toBe('2026');
    expect(formatGroup(null, column('text', 'Driver'), null)).toBe('No driver');
    expect(formatGroup('car_hauler', column('choice'), null)).toBe('car hauler');
  });

  it('are lines of their own, and open ones show their rows', () => {
    const groups = [group(3, 'A'), group(2, 'B')];
    const closed = new Layout(5, groups, () => false);
    expect(closed.length).toBe(2);
    expect(closed.at(1)).toEqual({ group: groups[1], index: 1 });
    const open = new Layout(5, groups, (g) => g.values[0] === 'B');
    expect(open.length).toBe(4);
    expect([2, 3, 4].map((line) => open.at(line))).toEqual([{ row: 3 }, { row: 4 }, undefined]);
    expect(open.rowsIn(0, 4)).toEqual([3, 5]);
    expect(closed.rowsIn(0, 2)).toBeNull();
  });

  it('within groups hide with the outer one, and rows keep their positions', () => {
    const groups = [group(5, 'A'), group(2, 'A', 1), group(3, 'A', 2), group(1, 'B'), group(1, 'B', 1)];
    const some = new Layout(6, groups, (g) => g.values[0] === 'B' || g.values[1] === 2 || g.values.length === 1);
    // A, A1, A2 with its three rows, B, B1 with its row.
    expect(some.length).toBe(9);
    expect(some.at(3)).toEqual({ row: 2 });
    expect(some.at(8)).toEqual({ row: 5 });
    expect(some.rowsOf(0)).toEqual([0, 5]);
    expect(some.rowsOf(2)).toEqual([2, 3]);
    expect(some.rowsOf(4)).toEqual([5, 1]);
    const shut = new Layout(6, groups, (g) => g.values[0] !== 'A');
    expect(shut.length).toBe(4);
    expect(shut.at(1)).toEqual({ group: groups[3], index: 3 });
    expect(shut.at(3)).toEqual({ row: 5 });
  });

  it('all open show every row once, in order', () => {
    const groups = [group(40, 'A'), group(40, 'A', 1), group(61, 'B'), group(1, 'B', 1), group(60, 'B', 2)];
    const layout = new Layout(101, groups, () => true);
    const rows = Array.from({ length: layout.length }, (_, i) => layout.at(i)).flatMap((l) =>
      l && 'row' in l ? [l.row] : [],
    );
    expect(rows).toEqual(Array.from({ length: 101 }, (_, i) => i));
    expect(new Layout(101, [], () => true).at(100)).toEqual({ row: 100 });
  });
});
