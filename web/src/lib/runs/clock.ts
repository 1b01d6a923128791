/** Minutes from midnight as a clock time. */
export const clock = (m: number) =>
  `${String(Math.floor(m / 60) % 24).padStart(2, '0')}:${String(Math.round(m) % 60).padStart(2, '0')}${m >= 1440 ? ` +${Math.floor(m / 1440)}d` : ''}`;

/** A time of day as minutes from midnight: 8, 0830, 8:30, 5:30 pm; null when invalid. */
export function minutes(text: string): number | null {
  const m = /^(\d{1,2}?):?(\d{2})?\s*([ap])?m?$/i.exec(text.trim());
  if (!m) return null;
  let h = Number(m[1]);
  const min = Number(m[2] ?? 0);
  if (m[3]) {
    if (h < 1 || h > 12) return null;
    h = (h % 12) + (m[3].toLowerCase() === 'p' ? 12 : 0);
  }
  return h > 24 || min > 59 || (h === 24 && min > 0) ? null : h * 60 + min;
}

/** The name of a plan's driver: A, B and so on. */
export const letter = (driver: number) => 'ABCDEFGHIJKLMNOPQRSTUVWXYZ'[driver] ?? String(driver + 1);

const signed = (n: number, unit: string) =>
  `${n > 0 ? '+' : n < 0 ? '−' : '±'}${Math.abs(n).toFixed(unit === 'mi' ? 1 : 0)} ${unit}`;
/** What a change to a plan costs, such as +3.2 mi, +9 min. */
export const costOf = (c: { miles: number; minutes: number }) =>
  `${signed(c.miles, 'mi')}, ${signed(c.minutes, 'min')}`;
