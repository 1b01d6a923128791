/** Longitude and latitude, as GeoJSON orders them. */
export type Point = readonly [number, number] | number[];

/** A trip on the map. Several are told apart by their letter and their dash as well as by their colour. */
export interface MapTrip {
  id: number;
  /** What stands at its stops: a letter or a number. */
  label: string;
  line: readonly Point[];
  stops: readonly { at: Point; label: string; done?: boolean; name?: string }[];
  /** 0 to 5; how its line looks. */
  look?: number;
  /** Drawn in the back, thin. */
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

/** Dashes in pixels by look. */
export const DASHES: number[][] = [[], [9, 5], [2, 5], [14, 4, 2, 4], [6, 3], [1, 4, 8, 4]];

/** The smallest box around points, or null. */
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
