import { describe, expect, it } from 'vitest';
import { quantityOf, soldIn, thirdFigure, typedNumber } from './expenses';

describe('a fuel receipt', () => {
  it('is in liters and Canadian dollars where it was bought in Canada', () => {
    expect(soldIn('ab')).toEqual({ currency: 'CAD', unit: 'liters' });
    expect(soldIn('OR')).toEqual({ currency: 'USD', unit: 'gallons' });
    expect(soldIn('')).toEqual({ currency: 'USD', unit: 'gallons' });
  });
  it('reads numbers as they are typed', () => {
    expect(['102.5', '1,250', '3,799', '$3.799', '.5', '12.', '', 'ten', '1.2.3'].map(typedNumber)).toEqual([
      102.5,
      1250,
      3799,
      3.799,
      0.5,
      12,
      null,
      null,
      null,
    ]);
  });
  it('shows the third of quantity, price and amount', () => {
    const paid = { amount: '389.40', currency: 'USD' as const };
    expect(thirdFigure(102.5, 3.799, null, 'gallons')).toBe('comes to 389.40');
    expect(thirdFigure(102.5, null, paid, 'gallons')).toBe('3.799 a gallon');
    expect(thirdFigure(null, 1.459, paid, 'liters')).toBe('266.9 liters');
    expect(thirdFigure(102.5, null, null, 'gallons')).toBe('');
    expect(thirdFigure(102.5, 3.799, paid, 'gallons')).toBe('');
  });
  it('names its quantity', () => {
    expect(quantityOf({ quantity: 102.5, unit: 'gallons' })).toBe('102.5 gal');
    expect(quantityOf({ quantity: null, unit: null })).toBe('');
  });
});
