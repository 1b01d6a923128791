/** Base map data as the server packs it: thousandths of a degree, each point relative to the one before. */
interface Packed {
  regions: { id: string; rings: number[][] }[];
  around: { id: string; rings: number[][] }[];
  roads: { n: string; k: number; l: number[] }[];
  towns: [string, string, number, number, number][];
}

/** A line in Web Mercator's unit square, with its bounding box. */
export interface Shape {
  xy: Float64Array;
  box: [number, number, number, number];
}
export interface Road extends Shape {
  name: string;
  /** 0 Interstate, 1 within and around cities, 2 four lanes, 3 two lanes, 4 country roads, 5 ferries. */
  kind: number;
}
export interface Town {
  name: string;
  region: string;
  x: number;
  y: number;
  people: number;
}
export interface Base {
  land: Shape[];
  around: Shape[];
  roads: Road[];
  towns: Town[];
}

/** Longitude and latitude in degrees to the unit square. */
export function project(lon: number, lat: number): [number, number] {
  const s = Math.sin((Math.max(-85, Math.min(85, lat)) * Math.PI) / 180);
  return [lon / 360 + 0.5, 0.5 - Math.log((1 + s) / (1 - s)) / (4 * Math.PI)];
}

function shape(steps: number[]): Shape {
  const xy = new Float64Array(steps.length);
  const box: Shape['box'] = [2, 2, -2, -2];
  let lon = 0;
  let lat = 0;
  for (let i = 0; i < steps.length; i += 2) {
    lon += steps[i];
    lat += steps[i + 1];
    const [x, y] = project(lon / 1000, lat / 1000);
    xy[i] = x;
    xy[i + 1] = y;
    box[0] = Math.min(box[0], x);
    box[1] = Math.min(box[1], y);
    box[2] = Math.max(box[2], x);
    box[3] = Math.max(box[3], y);
  }
  return { xy, box };
}

export function unpack(p: Packed): Base {
  return {
    land: p.regions.flatMap((r) => r.rings.map(shape)),
    around: p.around.flatMap((r) => r.rings.map(shape)),
    roads: p.roads.map((r) => ({ ...shape(r.l), name: r.n, kind: r.k })).sort((a, b) => b.kind - a.kind),
    towns: p.towns.map(([name, region, lon, lat, people]) => {
      const [x, y] = project(lon / 1000, lat / 1000);
      return { name, region, x, y, people };
    }),
  };
}

let asked: Promise<Base> | undefined;

/** The base map, fetched once for all maps. */
export function base(): Promise<Base> {
  asked ??= fetch('/api/map/base')
    .then((r) => (r.ok ? (r.json() as Promise<Packed>) : Promise.reject(new Error('The map could not be loaded.'))))
    .then(unpack)
    .catch((e) => {
      asked = undefined;
      throw e;
    });
  return asked;
}

const meets = (a: Shape['box'], b: Shape['box']) => a[0] <= b[2] && a[2] >= b[0] && a[1] <= b[3] && a[3] >= b[1];

/** Base map colors from the theme. */
export interface Ground {
  water: string;
  land: string;
  away: string;
  border: string;
  road: string;
  big: string;
}
export function ground(el: HTMLElement): Ground {
  const css = getComputedStyle(el);
  const v = (name: string) => css.getPropertyValue(name).trim();
  return {
    water: v('--map-water'),
    land: v('--map-land'),
    away: v('--map-away'),
    border: v('--map-border'),
    road: v('--map-road'),
    big: v('--map-big'),
  };
}

/** The minimum zoom of each kind of road, its width, and whether it is dashed: ferries. In the order of the server's kinds. */
const ROADS: { from: number; width: (z: number) => number; dash?: number[] }[] = [
  { from: 3, width: (z: number) => 0.7 + Math.max(0, z - 4) * 0.45 },
  { from: 7, width: (z: number) => 0.7 + Math.max(0, z - 6) * 0.4 },
  { from: 5, width: (z: number) => 0.5 + Math.max(0, z - 5) * 0.35 },
  { from: 6, width: (z: number) => 0.4 + Math.max(0, z - 6) * 0.3 },
  { from: 7, width: (z: number) => 0.3 + Math.max(0, z - 7) * 0.25 },
  { from: 6, width: (z: number) => 0.6 + Math.max(0, z - 6) * 0.3, dash: [4, 4] },
];

/** Draws one base tile. */
export function drawTile(
  b: Base,
  g: Ground,
  c: CanvasRenderingContext2D,
  size: number,
  x: number,
  y: number,
  z: number,
) {
  const world = size * 2 ** z;
  const pad = 4 / world;
  const box: Shape['box'] = [x / 2 ** z - pad, y / 2 ** z - pad, (x + 1) / 2 ** z + pad, (y + 1) / 2 ** z + pad];
  const path = (s: Shape) => {
    for (let i = 0; i < s.xy.length; i += 2) {
      const px = s.xy[i] * world - x * size;
      const py = s.xy[i + 1] * world - y * size;
      if (i === 0) c.moveTo(px, py);
      else c.lineTo(px, py);
    }
  };
  c.fillStyle = g.water;
  c.fillRect(0, 0, size, size);
  for (const [shapes, fill] of [
    [b.around, g.away],
    [b.land, g.land],
  ] as const) {
    c.fillStyle = fill;
    c.strokeStyle = g.border;
    c.lineWidth = z < 5 ? 0.6 : 1;
    for (const s of shapes) {
      if (!meets(s.box, box)) continue;
      c.beginPath();
      path(s);
      c.closePath();
      c.fill();
      c.stroke();
    }
  }
  c.lineJoin = 'round';
  c.lineCap = 'round';
  for (const r of b.roads) {
    const how = ROADS[r.kind];
    if (z < how.from || !meets(r.box, box)) continue;
    c.strokeStyle = r.kind === 0 ? g.big : g.road;
    c.lineWidth = how.width(z);
    c.setLineDash(how.dash ?? []);
    c.beginPath();
    path(r);
    c.stroke();
  }
}

/** Towns labeled at a zoom, largest first. */
export function townsAt(b: Base, z: number, box: Shape['box']): Town[] {
  const least =
    [2e6, 2e6, 1e6, 600_000, 300_000, 120_000, 50_000, 20_000, 9000, 4000][Math.min(9, Math.max(0, Math.floor(z)))] ??
    2500;
  const found: Town[] = [];
  for (const t of b.towns) {
    if (t.people < (z >= 10 ? 2500 : least)) break;
    if (t.x >= box[0] && t.x <= box[2] && t.y >= box[1] && t.y <= box[3]) found.push(t);
  }
  return found;
}
