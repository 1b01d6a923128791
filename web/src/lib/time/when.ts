/** Parses and formats wall-clock times. All without zones: the server handles the place's zone. */

const DAYS = ['sun', 'mon', 'tue', 'wed', 'thu', 'fri', 'sat'];
const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];

/** A wall-clock time: 2026-11-24T14:30:00. */
export type Local = string;

/** The reader's date and time formats. Set at sign-in. */
interface DateFormat {
  /** 2:30 PM instead of 14:30. */
  twelveHour: boolean;
  /** 24 Nov instead of Nov 24. */
  dayFirst: boolean;
  /** The current year; dates in another year show theirs. Empty to never show it. */
  year: string;
}
let format: DateFormat = { twelveHour: false, dayFirst: false, year: '' };
export const setDateFormat = (f: DateFormat) => void (format = f);

const pad = (n: number) => String(n).padStart(2, '0');
const text = (d: Date, h: number, m: number): Local =>
  `${d.getUTCFullYear()}-${pad(d.getUTCMonth() + 1)}-${pad(d.getUTCDate())}T${pad(h)}:${pad(m)}:00`;
const plus = (d: Date, days: number) => new Date(d.getTime() + days * 86_400_000);

function clock(word: string): [number, number] | null {
  const m = /^(\d{1,2})(?::?(\d{2}))?\s*(a|p|am|pm)?$/i.exec(word);
  if (!m || (word.length < 3 && !m[3])) return null;
  // Three digits are 9:30, four are 14:30; one or two digits need a or p after them.
  const digits = m[1] + (m[2] ?? '');
  let hour = m[2] ? Number(digits.slice(0, -2)) : Number(m[1]);
  const minute = m[2] ? Number(m[2]) : 0;
  const half = m[3]?.toLowerCase()[0];
  if (half) {
    if (hour < 1 || hour > 12) return null;
    hour = (hour % 12) + (half === 'p' ? 12 : 0);
  }
  return hour < 24 && minute < 60 ? [hour, minute] : null;
}

const wordsOf = (typed: string) =>
  typed
    .trim()
    .toLowerCase()
    .replace(/(\d)\s+(am|pm|a|p)\b/g, '$1$2')
    .replace(/t(?=\d\d:\d\d)/, ' ')
    // A year is set off by a comma: "nov 24, 2025, 14:30" or "24 nov 2025, 14:30".
    .replace(
      /(\b[a-z]{3,9}\.? \d{1,2}|\b\d{1,2} [a-z]{3,9}),? (20\d\d)(?=,)|(\b[a-z]{3,9} \d{1,2}|\b\d{1,2} [a-z]{3,9}), (20\d\d)$/,
      '$1$3 y$2$4',
    )
    .split(/[\s,]+/)
    .filter(Boolean);

/**
 * Reads 1430, 2:30p, tue 14:30, +2d, +2d 0800, tomorrow 8a, 24 nov 14:30, nov 24, 2025, 14:30, 11/24 14:30, 2026-11-24 14:30.
 * A date without a time keeps the time of `like`, or 08:00; a time without a date is on the date of `like`, or today.
 * @param now The current wall-clock time there.
 * @returns The time, or null when the text is not one.
 */
export function parseWhen(typed: string, now: Local, like?: Local | null): Local | null {
  const words = wordsOf(typed);
  if (words.length === 0) return null;
  const today = new Date(now.slice(0, 10) + 'T00:00:00Z');
  let day: Date | null = null;
  let time: [number, number] | null = null;
  let shift = 0;
  for (let i = 0; i < words.length; i++) {
    const word = words[i];
    const offset = /^\+(\d{1,3})([dhm])$/.exec(word);
    if (offset) {
      const n = Number(offset[1]);
      if (offset[2] === 'd') day = plus(today, n);
      else shift += n * (offset[2] === 'h' ? 60 : 1);
    } else if (word === 'today' || word === 'tod') day = today;
    else if (word === 'tomorrow' || word === 'tom' || word === 'tmw') day = plus(today, 1);
    else if (word === 'yesterday') day = plus(today, -1);
    else if (word === 'noon') time = [12, 0];
    else if (word === 'midnight') time = [0, 0];
    else if (word === 'now') shift += 0;
    else if (DAYS.includes(word.slice(0, 3)) && /^[a-z]+$/.test(word)) {
      const ahead = (DAYS.indexOf(word.slice(0, 3)) - today.getUTCDay() + 7) % 7;
      day = plus(today, ahead);
    } else if (/^\d{1,2}$/.test(word) && MONTHS.includes((words[i + 1] ?? '').slice(0, 3))) {
      day = dated(today, MONTHS.indexOf(words[++i].slice(0, 3)), Number(word), words[i + 1]);
      if (!day) return null;
    } else if (MONTHS.includes(word.slice(0, 3)) && /^[a-z]+$/.test(word) && /^\d{1,2}$/.test(words[i + 1] ?? '')) {
      day = dated(today, MONTHS.indexOf(word.slice(0, 3)), Number(words[++i]), words[i + 1]);
      if (!day) return null;
    } else if (/^\d{4}-\d{2}-\d{2}$/.test(word)) {
      const [y, m, d] = word.split('-').map(Number);
      day = real(y, m - 1, d);
      if (!day) return null;
    } else if (/^\d{1,2}\/\d{1,2}(\/(20)?\d\d)?$/.test(word)) {
      const [a, b, y] = word.split('/').map(Number);
      const [m, d] = format.dayFirst ? [b, a] : [a, b];
      day = y === undefined ? dated(today, m - 1, d) : real(y < 100 ? 2000 + y : y, m - 1, d);
      if (!day) return null;
    } else if (/^y20\d\d$/.test(word)) {
      // Taken together with its month and day.
      if (!day) return null;
    } else {
      const t = clock(word);
      if (!t || time) return null;
      time = t;
    }
  }
  if (shift || (words.length === 1 && words[0] === 'now')) {
    const base = new Date(`${now.slice(0, 16)}:00Z`);
    const at = new Date(base.getTime() + shift * 60_000);
    return text(at, at.getUTCHours(), at.getUTCMinutes());
  }
  if (!day && !time) return null;
  day ??= like ? new Date(like.slice(0, 10) + 'T00:00:00Z') : today;
  time ??= like ? [Number(like.slice(11, 13)), Number(like.slice(14, 16))] : [8, 0];
  return text(day, time[0], time[1]);
}

function real(y: number, m: number, d: number): Date | null {
  const date = new Date(Date.UTC(y, m, d));
  return date.getUTCMonth() === m && date.getUTCDate() === d ? date : null;
}

/** A day and month in the year given as y2025, or else in the year nearest to today. */
function dated(today: Date, month: number, day: number, year?: string): Date | null {
  if (/^y20\d\d$/.test(year ?? '')) return real(Number(year!.slice(1)), month, day);
  const years = [-1, 0, 1].map((n) => real(today.getUTCFullYear() + n, month, day)).filter((d) => d !== null);
  years.sort((a, b) => Math.abs(a.getTime() - today.getTime()) - Math.abs(b.getTime() - today.getTime()));
  return years[0] ?? null;
}

/** Reads a date in any of the forms {@link parseWhen} reads, without a time. Returns 2026-11-24, or null. */
export function parseDay(typed: string, today: string): string | null {
  if (/\d:\d|\d\s*[ap]m?\b|^\d{3,4}$|^now$|[hm]$/i.test(typed.trim())) return null;
  return parseWhen(typed.trim().replace(/,? (20\d\d)$/, ', $1'), `${today}T08:00:00`)?.slice(0, 10) ?? null;
}

const names = (day: string) => {
  const d = new Date(day.slice(0, 10) + 'T00:00:00Z');
  const cap = (s: string) => s[0].toUpperCase() + s.slice(1);
  return { weekday: cap(DAYS[d.getUTCDay()]), month: cap(MONTHS[d.getUTCMonth()]), day: d.getUTCDate() };
};

/** A date without its weekday: Nov 24, or Nov 24, 2025 in another year. */
export function formatDate(day: string | null | undefined): string {
  if (!day) return '';
  const n = names(day);
  const year = format.year && day.slice(0, 4) !== format.year ? day.slice(0, 4) : '';
  return format.dayFirst ? `${n.day} ${n.month}${year && ` ${year}`}` : `${n.month} ${n.day}${year && `, ${year}`}`;
}

/** A month: Nov 2026. Takes 2026-11, or any date in it. */
export const formatMonth = (month: string) => `${names(`${month.slice(0, 7)}-01`).month} ${month.slice(0, 4)}`;

/** A weekday and day of month where space is short: Tue 24. */
export const formatWeekday = (day: string) => `${names(day).weekday} ${names(day).day}`;

/** A date: Tue Nov 24. */
export const formatDay = (day: string | null | undefined) => (day ? `${names(day).weekday} ${formatDate(day)}` : '');

/** The time of day of a wall-clock time: 14:30 or 2:30 PM. */
export function formatTime(local: Local): string {
  const [h, m] = [Number(local.slice(11, 13)), local.slice(14, 16)];
  return format.twelveHour ? `${h % 12 || 12}:${m} ${h < 12 ? 'AM' : 'PM'}` : `${pad(h)}:${m}`;
}

/** A date and time: Tue Nov 24, 14:30. */
export const formatLocal = (local: Local | null | undefined) =>
  local ? `${formatDay(local)}, ${formatTime(local)}` : '';

/** A time of the coming days, where space is short: Tue 14:30. */
export const formatSoon = (local: Local) => `${names(local).weekday} ${formatTime(local)}`;

/** A date and time without the weekday: Nov 24, 14:30. */
export const formatShort = (local: Local | null | undefined) =>
  local ? `${formatDate(local)}, ${formatTime(local)}` : '';

/** The wall clock of a zone at an instant. */
export function localAt(instant: string | number | Date, zone: string): Local {
  const parts = new Intl.DateTimeFormat('en-CA', {
    timeZone: zone,
    year: 'numeric',
    month: '2-digit',
    day: '2-digit',
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
  }).formatToParts(new Date(instant));
  const get = (type: string) => parts.find((p) => p.type === type)!.value;
  return `${get('year')}-${get('month')}-${get('day')}T${get('hour')}:${get('minute')}:00`;
}

/** 14:30 in a zone. */
export const clockAt = (instant: string, zone: string) => formatTime(localAt(instant, zone));

/** The instant of a wall-clock time in a zone; a skipped time moves forward. */
export function instantOf(local: Local, zone: string): string {
  const wanted = Date.parse(local.slice(0, 16) + ':00Z');
  let guess = wanted;
  for (let i = 0; i < 3; i++) guess += wanted - Date.parse(localAt(guess, zone).slice(0, 16) + ':00Z');
  return new Date(guess).toISOString();
}

/** The effect of a clock change on a wall-clock time in a zone, in words; null when the time occurs once. */
export function clockChange(local: Local, zone: string): string | null {
  const wanted = Date.parse(local.slice(0, 16) + ':00Z');
  const day = 86_400_000;
  const offset = (at: number) => Date.parse(localAt(at, zone).slice(0, 16) + ':00Z') - at;
  const offsets = [...new Set([offset(wanted - day), offset(wanted + day)])];
  const times = offsets.filter((o) => offset(wanted - o) === o).length;
  return offsets.length < 2 || times === 1
    ? null
    : times === 0
      ? 'This time does not exist: clocks move forward.'
      : 'Clocks move back and this time occurs twice: a window opens at the first and closes at the second.';
}

/** A zone's short name: Mountain, Pacific. */
export function zoneName(zone: string | null | undefined, at: number = Date.now()): string {
  if (!zone) return '';
  const long =
    new Intl.DateTimeFormat('en-US', { timeZone: zone, timeZoneName: 'longGeneric' })
      .formatToParts(new Date(at))
      .find((p) => p.type === 'timeZoneName')?.value ?? zone;
  return long.replace(/ (Standard |Daylight )?Time$/, '');
}

/** A day some days later or earlier, both as 2026-11-23. */
export const addDays = (day: string, days: number) =>
  plus(new Date(`${day}T00:00:00Z`), days)
    .toISOString()
    .slice(0, 10);

/** A duration in minutes, as 7 h 05. */
export const hours = (m: number) => `${Math.floor(m / 60)} h ${String(Math.round(m) % 60).padStart(2, '0')}`;

/** Sentences of the server: 24-hour times and dates with the month first, put into the reader's format. */
export function formatSentence(sentence: string): string {
  let out = sentence;
  if (format.dayFirst)
    out = out.replace(
      /\b(Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec) (\d{1,2})(?:, (\d{4}))?\b/g,
      (_, month: string, day: string, year?: string) => `${day} ${month}${year ? ` ${year}` : ''}`,
    );
  if (format.twelveHour)
    out = out.replace(
      /(?<![\d:])([01]\d|2[0-3]):([0-5]\d)(?![\d:])(?! [AP]M)/g,
      (_, h: string, m: string) => `${Number(h) % 12 || 12}:${m} ${Number(h) < 12 ? 'AM' : 'PM'}`,
    );
  return out;
}

/** Fields of the API that hold sentences of the server, and nothing that a person typed into a field. */
const SENTENCES = new Set(
  ['status', 'trouble', 'summary', 'title', 'detail', 'when', 'problem', 'doubt', 'blocked', 'undoes', 'missing', 'failed', 'memo'], // prettier-ignore
);

/** An answer of the server with its sentences in the reader's format. Changes it in place. */
export function inReadersFormat<T>(answer: T): T {
  if (!format.dayFirst && !format.twelveHour) return answer;
  const walk = (value: unknown, sentences: boolean): unknown => {
    if (typeof value === 'string') return sentences ? formatSentence(value) : value;
    if (Array.isArray(value)) return (value.forEach((v, i) => (value[i] = walk(v, sentences))), value);
    if (value && typeof value === 'object' && !(value instanceof Blob)) {
      const o = value as Record<string, unknown>;
      for (const key in o) o[key] = walk(o[key], SENTENCES.has(key));
    }
    return value;
  };
  return walk(answer, false) as T;
}
