import { describe, expect, it } from 'vitest';
import { byDelivery, byFreight, byQuantity, divideRequest, left, unitOf } from './divide';

const line = (more: object) =>
  ({ bulk: null, pallets: null, pieces: null, weightLb: null, ...more }) as Parameters<typeof unitOf>[0];
const stops = [{ kind: 'pickup' }, { kind: 'delivery' }, { kind: 'pickup' }, { kind: 'delivery' }] as Parameters<
  typeof byFreight
>[0];
const butter = line({ pallets: 10, pieces: 400, weightLb: 8000 });
const tools = line({});

describe('a load that is divided', () => {
  it('counts a line in gallons, pallets, pieces or pounds, whichever it has first', () => {
    expect(unitOf(line({ bulk: { gallons: 1250.5 }, weightLb: 9000 }))).toEqual({ unit: 'gallons', total: 1250.5 });
    expect(unitOf(butter)).toEqual({ unit: 'pallets', total: 10 });
    expect(unitOf(line({ pieces: 3, weightLb: 40 }))).toEqual({ unit: 'pieces', total: 3 });
    expect(unitOf(line({ weightLb: 40 }))).toEqual({ unit: 'lb', total: 40 });
    expect(unitOf(tools)).toBeNull();
  });

  it('has a part for each line, or for each delivery with the pickups before it', () => {
    expect(byFreight(stops, [butter, tools]).map((p) => p.amounts)).toEqual([
      ['10', '0'],
      ['0', '1'],
    ]);
    const parts = byDelivery(stops, [butter]);
    expect(parts.map((p) => p.stops)).toEqual([
      [true, true, false, false],
      [true, false, true, true],
    ]);
    // One line for two deliveries: how much goes where is to be entered.
    expect(parts.map((p) => p.amounts)).toEqual([['0'], ['0']]);
    expect(byDelivery(stops, [butter, tools]).map((p) => p.amounts)).toEqual([
      ['10', '0'],
      ['0', '1'],
    ]);
  });

  it('says what is on no part yet, and sends what was typed', () => {
    const parts = byQuantity(stops.slice(0, 2), [butter]);
    expect(left(butter, parts, 0)).toBe(0);
    parts[0].amounts[0] = '6';
    expect(left(butter, parts, 0)).toBe(4);
    parts[1].amounts[0] = '1,004';
    expect(left(butter, parts, 0)).toBe(-1000);
    parts[1].stops[0] = false;
    expect(divideRequest(parts)).toEqual({
      parts: [
        { stops: [1, 2], amounts: [6] },
        { stops: [2], amounts: [1004] },
      ],
    });
  });
});
