import type L from 'leaflet';
import { DASHES, type MapFence, type MapMark, type MapTrip, type MapTruck, type Point } from './trips';

export interface Colors {
  ink: string;
  panel: string;
  lark: string;
  ember: string;
  mute: string;
  land: string;
  trips: string[];
}

/** The theme's colors. */
export function colorsOf(box: HTMLElement): Colors {
  const css = getComputedStyle(box);
  const v = (name: string) => css.getPropertyValue(name).trim();
  const [ink, panel, lark, ember, mute, land] = ['--ink', '--panel', '--lark', '--ember', '--mute', '--map-land'].map(
    v,
  );
  return { ink, panel, lark, ember, mute, land, trips: [1, 2, 3, 4, 5, 6].map((n) => v(`--trip-${n}`)) };
}

/** The space that labels and symbols take, so that no label covers another. */
export class Taken {
  #boxes: [number, number, number, number][] = [];

  get length() {
    return this.#boxes.length;
  }
  clear() {
    this.#boxes = [];
  }
  cutTo(length: number) {
    this.#boxes.length = length;
  }
  reserve(q: L.Point, dx: number, dy: number) {
    this.#boxes.push([q.x - dx, q.y - dy, q.x + dx, q.y + dy]);
  }
  /** Takes a box when it is free. */
  free(x: number, y: number, w: number, h: number): boolean {
    if (this.#boxes.some((t) => x < t[2] && x + w > t[0] && y < t[3] && y + h > t[1])) return false;
    this.#boxes.push([x, y, x + w, y + h]);
    return true;
  }
}

const font = (weight: number, size = 12) => `${weight} ${size}px 'Atkinson Hyperlegible Next Variable', sans-serif`;

/** A canvas with what drawing on it needs. */
export class Brush {
  constructor(
    readonly c: CanvasRenderingContext2D,
    readonly size: L.Point,
    readonly colors: Colors,
    readonly at: (p: Point) => L.Point,
    readonly taken: Taken,
    readonly chosen: number | null,
  ) {}

  /** Text with a halo, so that it can be read on any ground. */
  write(text: string, x: number, y: number, color: string, bold = false) {
    const { c } = this;
    c.font = font(bold ? 700 : 400);
    c.lineWidth = 3;
    c.strokeStyle = this.colors.land;
    c.lineJoin = 'round';
    c.strokeText(text, x, y);
    c.fillStyle = color;
    c.fillText(text, x, y);
  }
  width(text: string, weight: number, size = 12): number {
    this.c.font = font(weight, size);
    return this.c.measureText(text).width;
  }
  path(points: readonly Point[]) {
    points.forEach((p, i) => {
      const q = this.at(p);
      if (i === 0) this.c.moveTo(q.x, q.y);
      else this.c.lineTo(q.x, q.y);
    });
  }
  /** Fills and outlines the current path. */
  paint(fill: string, stroke: string, width: number) {
    this.c.fillStyle = fill;
    this.c.fill();
    this.c.lineWidth = width;
    this.c.strokeStyle = stroke;
    this.c.stroke();
  }
  /** Whether a symbol there would be seen. */
  sees(q: L.Point): boolean {
    return q.x >= -20 && q.y >= -20 && q.x <= this.size.x + 20 && q.y <= this.size.y + 20;
  }
}

export function drawFences(b: Brush, fences: readonly MapFence[]) {
  const { c, at, colors } = b;
  for (const f of fences) {
    c.beginPath();
    if (f.corners?.length) {
      b.path(f.corners);
      c.closePath();
    } else if (f.miles) {
      const [m, e] = [at(f.at), at([f.at[0] + f.miles / (69.09 * Math.cos((f.at[1] * Math.PI) / 180)), f.at[1]])];
      c.arc(m.x, m.y, Math.max(2, e.x - m.x), 0, 2 * Math.PI);
    }
    c.globalAlpha = 0.14;
    c.fillStyle = colors.lark;
    c.fill();
    c.globalAlpha = 1;
    c.setLineDash([4, 3]);
    c.lineWidth = 1.4;
    c.strokeStyle = colors.lark;
    c.stroke();
    c.setLineDash([]);
  }
}

/** Routes, the chosen one on top, and the stops of those that stand out. */
export function drawTrips(b: Brush, trips: readonly MapTrip[]) {
  const { chosen } = b;
  const order = [...trips].sort(
    (a, z) => Number(a.id === chosen) - Number(z.id === chosen) || Number(!a.faint) - Number(!z.faint),
  );
  const main = (t: MapTrip) => t.id === chosen || (!t.faint && chosen === null);
  for (const t of order) drawLine(b, t, main(t));
  for (const t of order) if (main(t)) for (const s of t.stops) drawStop(b, t, s);
}

function drawLine(b: Brush, t: MapTrip, main: boolean) {
  const { c, colors } = b;
  const dash = DASHES[(t.look ?? 0) % DASHES.length];
  c.setLineDash(dash);
  c.lineJoin = 'round';
  c.lineCap = 'butt';
  c.beginPath();
  b.path(t.line);
  if (main) {
    c.setLineDash([]);
    c.strokeStyle = colors.land;
    c.lineWidth = 6;
    c.stroke();
    c.setLineDash(dash);
  }
  const plain = t.faint && t.look === undefined ? colors.mute : colors.trips[(t.look ?? 0) % 6];
  c.strokeStyle = t.id === b.chosen ? colors.lark : plain;
  c.globalAlpha = main ? 1 : 0.55;
  c.lineWidth = main ? 3.4 : 1.6;
  c.stroke();
  c.globalAlpha = 1;
  c.setLineDash([]);
}

/** A numbered pill, filled when the stop is complete; a dot where there is no room. */
function drawStop(b: Brush, t: MapTrip, s: MapTrip['stops'][number]) {
  const { c, colors } = b;
  const q = b.at(s.at);
  const w = Math.max(18, b.width(s.label, 700, 11) + 9);
  const [fill, edge] = [
    s.done ? colors.ink : colors.panel,
    t.id === b.chosen ? colors.lark : colors.trips[(t.look ?? 0) % 6],
  ];
  c.beginPath();
  if (!b.taken.free(q.x - w / 2, q.y - 9, w, 18)) {
    c.arc(q.x, q.y, 4, 0, 2 * Math.PI);
    b.paint(fill, edge, 1.6);
    return;
  }
  c.roundRect(q.x - w / 2, q.y - 9, w, 18, 9);
  b.paint(fill, edge, 2);
  c.fillStyle = s.done ? colors.panel : colors.ink;
  c.textAlign = 'center';
  c.fillText(s.label, q.x, q.y + 0.5);
  c.textAlign = 'left';
  if (s.name && b.taken.free(q.x + w / 2 + 3, q.y - 8, b.width(s.name, 700), 16))
    b.write(s.name, q.x + w / 2 + 4, q.y, colors.ink, true);
}

/** What a search found: squares for loads, triangles for trucks, circles for places. */
export function drawMarks(b: Brush, marks: readonly MapMark[]) {
  const { c, colors } = b;
  for (const m of marks) {
    const q = b.at(m.at);
    if (!b.sees(q)) continue;
    c.beginPath();
    if (m.kind === 'load') c.rect(q.x - 5, q.y - 5, 10, 10);
    else if (m.kind === 'truck') {
      c.moveTo(q.x, q.y - 7);
      c.lineTo(q.x + 6, q.y + 5);
      c.lineTo(q.x - 6, q.y + 5);
      c.closePath();
    } else c.arc(q.x, q.y, 4, 0, 2 * Math.PI);
    const mine = m.id === b.chosen;
    b.paint(mine ? colors.lark : colors.panel, mine ? colors.lark : colors.ink, 1.8);
  }
}

export function drawTowns(b: Brush, towns: readonly { name: string; q: L.Point }[]) {
  for (const { name, q } of towns) {
    if (!b.taken.free(q.x - 3, q.y - 7, b.width(name, 400) + 12, 14)) continue;
    b.c.beginPath();
    b.c.arc(q.x, q.y, 1.8, 0, 2 * Math.PI);
    b.c.fillStyle = b.colors.mute;
    b.c.fill();
    b.write(name, q.x + 5, q.y, b.colors.mute);
  }
}

export function drawTrucks(b: Brush, trucks: readonly MapTruck[], whereIs: (t: MapTruck) => Point) {
  const { c, colors } = b;
  for (const t of trucks) {
    const q = b.at(whereIs(t));
    if (!b.sees(q)) continue;
    const mine = t.id === b.chosen;
    c.beginPath();
    c.roundRect(q.x - 6, q.y - 5, 12, 10, 2.5);
    b.paint(mine ? colors.lark : t.urgent ? colors.ember : colors.ink, colors.panel, 1.6);
    if (t.urgent) {
      c.beginPath();
      c.arc(q.x, q.y, 11, 0, 2 * Math.PI);
      c.strokeStyle = colors.ember;
      c.stroke();
    }
    if ((trucks.length <= 80 || mine) && b.taken.free(q.x + 9, q.y - 8, b.width(t.label, 400) + 2, 16))
      b.write(t.label, q.x + 10, q.y, mine ? colors.lark : colors.ink, mine || t.urgent);
  }
}

/** A cleared canvas of this size, in device pixels. */
export function sized(canvas: HTMLCanvasElement, size: L.Point) {
  const ratio = devicePixelRatio || 1;
  if (canvas.width !== size.x * ratio || canvas.height !== size.y * ratio) {
    canvas.width = size.x * ratio;
    canvas.height = size.y * ratio;
    canvas.style.width = `${size.x}px`;
    canvas.style.height = `${size.y}px`;
  }
  const c = canvas.getContext('2d')!;
  c.setTransform(ratio, 0, 0, ratio, 0, 0);
  c.clearRect(0, 0, size.x, size.y);
  c.textBaseline = 'middle';
  return c;
}
