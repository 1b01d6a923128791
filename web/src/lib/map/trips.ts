/** Longitude and latitude, in GeoJSON order. */
export type Point = readonly [number, number] | number[];

/** A trip on the map. Trips differ by letter and dash pattern as well as by color. */
export interface MapTrip {
  id: number;
  /** The label of its stops: a letter or a number. */
  label: string;
  line: readonly Point[];
  stops: readonly { at: Point; label: string; done?: boolean; name?: string }[];
  /** 0 to 5; the style of its line. */
  look?: number;
  /** Drawn thin, in the background. */
  faint?: boolean;
}
export interface MapTruck {
  id: number;
  at: Point;
  label: string;
  urgent?: boolean;
}
export interface MapMark {
  id: number;
  at: Point;
  label: string;
  kind: string;
}
export interface MapFence {
  at: Point;
  miles?: number | null;
  corners?: readonly Point[] | null;
}

/** Dash patterns in pixels by style. */
export const DASHES: number[][] = [[], [9, 5], [2, 5], [14, 4, 2, 4], [6, 3], [1, 4, 8, 4]];

/** The bounding box of points, or null. */
export function boxOf(points: Iterable<Point>): [[number, number], [number, number]] | null {
  let [w, s, e, n] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const [x, y] of points) {
    w = Math.min(w, x);
    e = Math.max(e, x);
    s = Math.min(s, y);
    n = Math.max(n, y);
  }
  return w <= e
    ? [
        [s, w],
        [n, e],
      ]
    : null;
}

/** What a search near a place or along a route finds. */
export const foundWords: Record<string, string> = { load: 'open load', truck: 'truck', place: 'place' };

/** Whether a pixel is within six of a line between two others. */
export function isNear(p: Pixel, a: Pixel, b: Pixel): boolean {
  const [dx, dy] = [b.x - a.x, b.y - a.y];
  const k = dx || dy ? Math.max(0, Math.min(1, ((p.x - a.x) * dx + (p.y - a.y) * dy) / (dx * dx + dy * dy))) : 0;
  return Math.hypot(a.x + k * dx - p.x, a.y + k * dy - p.y) <= 6;
}
interface Pixel {
  x: number;
  y: number;
}
