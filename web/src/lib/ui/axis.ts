import { formatDate, formatTime, localAt } from '../time/when';

/** A time span drawn from left to right. */
export interface Axis {
  from: number;
  until: number;
  width: number;
}

export const xOf = (axis: Axis, at: number) => ((at - axis.from) / (axis.until - axis.from)) * axis.width;

export interface Tick {
  x: number;
  label: string;
  strong: boolean;
}

const HOUR = 3_600_000;
const NAMES = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'];

/** Midnights, with noon or six-hour lines where there is room. In a zone's wall-clock time. */
export function ticks(axis: Axis, zone: string): Tick[] {
  const list: Tick[] = [];
  const perDay = (24 * HOUR * axis.width) / (axis.until - axis.from);
  if (perDay < 24) return weeks(axis, perDay);
  const step = perDay > 220 ? 6 : perDay > 90 ? 12 : 24;
  const first = Math.ceil(axis.from / HOUR) * HOUR;
  for (let at = first; at <= axis.until; at += HOUR) {
    const local = localAt(at, zone);
    const hour = Number(local.slice(11, 13));
    if (hour % step !== 0 || local.slice(14, 16) !== '00') continue;
    const day = new Date(local.slice(0, 10) + 'T00:00:00Z');
    const strong = hour === 0;
    list.push({
      x: xOf(axis, at),
      strong,
      label: strong
        ? perDay > 70
          ? `${NAMES[day.getUTCDay()]} ${day.getUTCDate()}`
          : NAMES[day.getUTCDay()]
        : formatTime(local).replace(':00', ''),
    });
  }
  return list;
}

/** Mondays, for an axis of days; every other one labeled where there is little room. */
function weeks(axis: Axis, perDay: number): Tick[] {
  const list: Tick[] = [];
  const every = perDay * 7 < 44 ? 3 : 2;
  const day = new Date(axis.from);
  day.setUTCHours(7, 0, 0, 0);
  day.setUTCDate(day.getUTCDate() + ((8 - day.getUTCDay()) % 7));
  for (let n = 0; day.getTime() <= axis.until; n++) {
    const named = n % every === 0;
    list.push({
      x: xOf(axis, day.getTime()),
      strong: named,
      label: named ? formatDate(day.toISOString().slice(0, 10)) : '',
    });
    day.setUTCDate(day.getUTCDate() + 7);
  }
  return list;
}
