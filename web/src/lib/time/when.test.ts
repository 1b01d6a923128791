import { afterEach, describe, expect, it } from 'vitest';
import { parseMoney } from '../money';
import {
  clockChange,
  formatDate,
  formatLocal,
  formatTime,
  instantOf,
  localAt,
  parseDay,
  parseWhen,
  formatSentence,
  inReadersFormat,
  setDateFormat,
} from './when';

// A Monday.
const now = '2026-11-23T09:42:00';

describe('typed times', () => {
  it.each([
    ['1430', '2026-11-23T14:30:00'],
    ['930', '2026-11-23T09:30:00'],
    ['2:30p', '2026-11-23T14:30:00'],
    ['2:30 pm', '2026-11-23T14:30:00'],
    ['12a', '2026-11-23T00:00:00'],
    ['12:15pm', '2026-11-23T12:15:00'],
    ['tue 14:30', '2026-11-24T14:30:00'],
    ['Tuesday 2:30p', '2026-11-24T14:30:00'],
    ['mon 0800', '2026-11-23T08:00:00'],
    ['sun', '2026-11-29T08:00:00'],
    ['+2d', '2026-11-25T08:00:00'],
    ['+2d 0630', '2026-11-25T06:30:00'],
    ['+3h', '2026-11-23T12:42:00'],
    ['+20m', '2026-11-23T10:02:00'],
    ['tomorrow noon', '2026-11-24T12:00:00'],
    ['24 nov 14:30', '2026-11-24T14:30:00'],
    ['nov 24 14:30', '2026-11-24T14:30:00'],
    ['11/24 2p', '2026-11-24T14:00:00'],
    ['2 jan 0800', '2027-01-02T08:00:00'],
    ['2026-12-01 07:15', '2026-12-01T07:15:00'],
    ['now', '2026-11-23T09:42:00'],
  ])('%s', (typed, meant) => expect(parseWhen(typed, now)).toBe(meant));

  it('takes the missing part from the reference: the day for a bare time, the time for a bare day', () => {
    expect(parseWhen('1600', now, '2026-11-25T08:00:00')).toBe('2026-11-25T16:00:00');
    expect(parseWhen('fri', now, '2026-11-25T13:30:00')).toBe('2026-11-27T13:30:00');
  });

  it.each(['', 'soon', '25:00', '1275', '14', '13p', '31 feb', '2026-02-30', '1430 1500', 'tue 9 9'])(
    'does not guess at "%s"',
    (typed) => expect(parseWhen(typed, now)).toBeNull(),
  );

  it('converts between wall-clock times and instants', () => {
    expect(localAt('2026-11-23T16:42:00Z', 'America/Denver')).toBe('2026-11-23T09:42:00');
    expect(instantOf('2026-11-23T09:42:00', 'America/Denver')).toBe('2026-11-23T16:42:00.000Z');
    expect(instantOf('2026-07-01T09:42:00', 'America/Los_Angeles')).toBe('2026-07-01T16:42:00.000Z');
    expect(formatLocal('2026-11-24T14:30:00')).toBe('Tue Nov 24, 14:30');
  });
});

describe('dates and times in each reader’s format', () => {
  afterEach(() => setDateFormat({ twelveHour: false, dayFirst: false, year: '' }));

  it.each([
    [false, false, 'Tue Nov 24, 14:30', 'Fri Jan 3, 2025', '00:05'],
    [true, false, 'Tue Nov 24, 2:30 PM', 'Fri Jan 3, 2025', '12:05 AM'],
    [false, true, 'Tue 24 Nov, 14:30', 'Fri 3 Jan 2025', '00:05'],
    [true, true, 'Tue 24 Nov, 2:30 PM', 'Fri 3 Jan 2025', '12:05 AM'],
  ])('twelve hours %s, day first %s', (twelveHour, dayFirst, soon, past, night) => {
    setDateFormat({ twelveHour, dayFirst, year: '2026' });
    expect(formatLocal('2026-11-24T14:30:00')).toBe(soon);
    expect(`${formatLocal('2025-01-03T08:00:00')}`).toContain(past);
    expect(formatDate('2026-11-24')).toBe(soon.slice(4).split(',')[0]);
    expect(formatTime('2026-11-24T00:05:00')).toBe(night);
  });

  it.each([false, true])('reads back what it wrote, day first %s', (dayFirst) => {
    for (const twelveHour of [false, true]) {
      setDateFormat({ twelveHour, dayFirst, year: '2026' });
      for (const local of [
        '2026-11-24T14:30:00',
        '2025-01-03T00:05:00',
        '2024-02-29T12:00:00',
        '2027-12-31T23:59:00',
      ]) {
        expect(parseWhen(formatLocal(local), now)).toBe(local);
        expect(parseDay(formatLocal(local).split(/, \d+:/)[0], now.slice(0, 10))).toBe(local.slice(0, 10));
      }
    }
  });

  it('puts sentences of the server into the format of the reader', () => {
    const sentence =
      'Spokane will be 1 h 40 late: ETA Tue Nov 24, 14:30, due by 00:05 on Jan 3, 2027. Order 12:345, ratio 1:30.';
    expect(formatSentence(sentence)).toBe(sentence);
    setDateFormat({ twelveHour: true, dayFirst: true, year: '2026' });
    expect(formatSentence(sentence)).toBe(
      'Spokane will be 1 h 40 late: ETA Tue 24 Nov, 2:30 PM, due by 12:05 AM on 3 Jan 2027. Order 12:345, ratio 1:30.',
    );
    const answer = inReadersFormat({ status: 'today 14:30', note: 'call at 14:30', rows: [{ trouble: ['left at 09:42'], at: '2026-11-24T14:30:00' }] }); // prettier-ignore
    expect(answer).toEqual({ status: 'today 2:30 PM', note: 'call at 14:30', rows: [{ trouble: ['left at 9:42 AM'], at: '2026-11-24T14:30:00' }] }); // prettier-ignore
    // Once is enough: an answer that is kept and read again does not change.
    expect(inReadersFormat(structuredClone(answer))).toEqual(answer);
  });
  it('reads numeric dates in the order the reader uses', () => {
    expect(parseDay('3/4', '2026-11-23')).toBe('2027-03-04');
    expect(parseDay('3/4/2025', '2026-11-23')).toBe('2025-03-04');
    setDateFormat({ twelveHour: false, dayFirst: true, year: '2026' });
    expect(parseDay('3/4/25', '2026-11-23')).toBe('2025-04-03');
    expect(parseDay('31/12', '2026-11-23')).toBe('2026-12-31');
  });

  it.each(['', '1430', '9:00', 'now', '+3h', 'soon', 'feb 30, 2025'])('does not take "%s" for a date', (typed) =>
    expect(parseDay(typed, '2026-11-23')).toBeNull(),
  );
});

describe('clock changes', () => {
  it.each([
    ['2026-11-01T01:30:00', 'America/Denver', 'twice'],
    ['2026-11-01T00:59:00', 'America/Denver', null],
    ['2026-11-01T02:00:00', 'America/Denver', null],
    ['2026-11-01T01:30:00', 'America/Phoenix', null],
    ['2026-11-01T01:30:00', 'America/Regina', null],
    ['2027-03-14T02:30:00', 'America/Denver', 'does not exist'],
    ['2027-03-14T03:00:00', 'America/Denver', null],
    ['2027-03-14T01:59:00', 'America/Denver', null],
  ])('%s in %s', (local, zone, said) =>
    said ? expect(clockChange(local, zone)).toContain(said) : expect(clockChange(local, zone)).toBeNull(),
  );
});

describe('typed amounts', () => {
  it.each([
    ['1850', '1850.00'],
    ['1,850.00', '1850.00'],
    ['$1850.5', '1850.50'],
    ['.75', '0.75'],
    ['1.9k', '1900.00'],
    ['99999999.99', '99999999.99'],
  ])('%s', (typed, amount) => expect(parseMoney(typed)).toEqual({ amount, currency: 'USD' }));

  it.each(['', '12.345', '1,85', '-5', 'ten', '1.2.3'])('does not guess at "%s"', (typed) =>
    expect(parseMoney(typed)).toBeNull(),
  );
});
