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
