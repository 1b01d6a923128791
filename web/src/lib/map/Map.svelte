<script lang="ts">
  import 'leaflet/dist/leaflet.css';
  import L from 'leaflet';
  import { onMount, untrack } from 'svelte';
  import { base, drawTile, ground, townsAt, type Base } from './base';
  import { boxOf, DASHES, type MapFence, type MapMark, type MapTrip, type MapTruck, type Point } from './trips';

  /** Our own map in light and dark: base tiles rendered here, data on a canvas above. */
  interface Props {
    label: string;
    trips?: readonly MapTrip[];
    trucks?: readonly MapTruck[];
    marks?: readonly MapMark[];
    fences?: readonly MapFence[];
    /** What to keep in view; changing it moves the map. */
    view?: readonly Point[];
    chosen?: number | null;
    /** Zoomed by the wheel only when the map is the page's main content. */
    still?: boolean;
    onpick?: (kind: 'trip' | 'truck' | 'mark', id: number) => void;
    onpoint?: (at: Point) => void;
    onready?: (map: L.Map) => void;
  }
  let {
    label,
    trips = [],
    trucks = [],
    marks = [],
    fences = [],
    view = [],
    chosen = null,
    still = false,
    onpick,
    onpoint,
    onready,
  }: Props = $props();

  let box: HTMLDivElement;
  let map: L.Map | undefined;
  let tiles: L.GridLayer | undefined;
  /** Static content is redrawn only when the map moved or data changed; trucks at every frame. */
  let under: HTMLCanvasElement;
  let over: HTMLCanvasElement;
  let paper: HTMLCanvasElement;
  let origin = L.point(0, 0);
  let stale = true;
  let taken: [number, number, number, number][] = [];
  let known: Base | undefined;
  let asleep = true;
  let mine = false;
  let problem = $state('');
  /** Interpolated truck positions. */
  const glide = new Map<number, { from: Point; to: Point; since: number }>();
  const GLIDE = 900;

  function wake() {
    if (!asleep || !map) return;
    asleep = false;
    requestAnimationFrame(draw);
  }
  const at = (p: Point) => map!.latLngToLayerPoint([p[1], p[0]]).subtract(origin);

  function truckAt(t: MapTruck, now: number): Point {
    const g = glide.get(t.id);
    if (!g) return t.at;
    const k = Math.min(1, (now - g.since) / GLIDE);
    return [g.from[0] + (g.to[0] - g.from[0]) * k, g.from[1] + (g.to[1] - g.from[1]) * k];
  }

  function sized(canvas: HTMLCanvasElement, size: L.Point) {
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

  /** The map moved: redraw everything from the current view. While dragging, the canvases move along. */
  function moved() {
    if (!map) return;
    origin = map.containerPointToLayerPoint([0, 0]);
    L.DomUtil.setPosition(under, origin);
    L.DomUtil.setPosition(over, origin);
    stale = true;
    draw();
  }

  function draw() {
    asleep = true;
    if (!map || !over) return;
    const size = map.getSize();
    const css = getComputedStyle(box);
    const v = (name: string) => css.getPropertyValue(name).trim();
    const [ink, panel, lark, ember, mute] = ['--ink', '--panel', '--lark', '--ember', '--mute'].map(v);
    const looks = [1, 2, 3, 4, 5, 6].map((n) => v(`--trip-${n}`));
    const now = performance.now();
    const still = stale;
    if (still) taken = [];
    let c = still ? sized(under, size) : over.getContext('2d')!;
    const free = (x: number, y: number, w: number, h: number) => {
      if (taken.some((t) => x < t[2] && x + w > t[0] && y < t[3] && y + h > t[1])) return false;
      taken.push([x, y, x + w, y + h]);
      return true;
    };
    const written = (text: string, x: number, y: number, colour: string, bold = false) => {
      c.font = `${bold ? 700 : 400} 12px 'Atkinson Hyperlegible Next Variable', sans-serif`;
      c.lineWidth = 3;
      c.strokeStyle = v('--map-land');
      c.lineJoin = 'round';
      c.strokeText(text, x, y);
      c.fillStyle = colour;
      c.fillText(text, x, y);
    };
    if (still) {
      for (const f of fences) {
        c.beginPath();
        if (f.corners?.length) {
          f.corners.forEach((p, i) => {
            const q = at(p);
            if (i === 0) c.moveTo(q.x, q.y);
            else c.lineTo(q.x, q.y);
          });
          c.closePath();
        } else if (f.miles) {
          const [m, e] = [at(f.at), at([f.at[0] + f.miles / (69.09 * Math.cos((f.at[1] * Math.PI) / 180)), f.at[1]])];
          c.arc(m.x, m.y, Math.max(2, e.x - m.x), 0, 2 * Math.PI);
        }
        c.globalAlpha = 0.14;
        c.fillStyle = lark;
        c.fill();
        c.globalAlpha = 1;
        c.setLineDash([4, 3]);
        c.lineWidth = 1.4;
        c.strokeStyle = lark;
        c.stroke();
        c.setLineDash([]);
      }

      const order = [...trips].sort(
        (a, b) => Number(a.id === chosen) - Number(b.id === chosen) || Number(!a.faint) - Number(!b.faint),
      );
      for (const t of order) {
        const main = t.id === chosen || (!t.faint && chosen === null);
        c.setLineDash(DASHES[(t.look ?? 0) % DASHES.length]);
        c.lineJoin = 'round';
        c.lineCap = 'butt';
        c.beginPath();
        t.line.forEach((p, i) => {
          const q = at(p);
          if (i === 0) c.moveTo(q.x, q.y);
          else c.lineTo(q.x, q.y);
        });
        if (main) {
          c.setLineDash([]);
          c.strokeStyle = v('--map-land');
          c.lineWidth = 6;
          c.stroke();
          c.setLineDash(DASHES[(t.look ?? 0) % DASHES.length]);
        }
        c.strokeStyle = t.id === chosen ? lark : t.faint && t.look === undefined ? mute : looks[(t.look ?? 0) % 6];
        c.globalAlpha = main ? 1 : 0.55;
        c.lineWidth = main ? 3.4 : 1.6;
        c.stroke();
        c.globalAlpha = 1;
        c.setLineDash([]);
      }
      for (const t of order) {
        const main = t.id === chosen || (!t.faint && chosen === null);
        if (!main) continue;
        for (const s of t.stops) {
          const q = at(s.at);
          c.font = `700 11px 'Atkinson Hyperlegible Next Variable', sans-serif`;
          const w = Math.max(18, c.measureText(s.label).width + 9);
          if (!free(q.x - w / 2, q.y - 9, w, 18)) {
            c.beginPath();
            c.arc(q.x, q.y, 4, 0, 2 * Math.PI);
            c.fillStyle = s.done ? ink : panel;
            c.fill();
            c.lineWidth = 1.6;
            c.strokeStyle = t.id === chosen ? lark : looks[(t.look ?? 0) % 6];
            c.stroke();
            continue;
          }
          c.beginPath();
          c.roundRect(q.x - w / 2, q.y - 9, w, 18, 9);
          c.fillStyle = s.done ? ink : panel;
          c.fill();
          c.lineWidth = 2;
          c.strokeStyle = t.id === chosen ? lark : looks[(t.look ?? 0) % 6];
          c.stroke();
          c.fillStyle = s.done ? panel : ink;
          c.textAlign = 'center';
          c.fillText(s.label, q.x, q.y + 0.5);
          c.textAlign = 'left';
          if (s.name) {
            c.font = `700 12px 'Atkinson Hyperlegible Next Variable', sans-serif`;
            const long = c.measureText(s.name).width;
            if (free(q.x + w / 2 + 3, q.y - 8, long, 16)) written(s.name, q.x + w / 2 + 4, q.y, ink, true);
          }
        }
      }

      for (const m of marks) {
        const q = at(m.at);
        if (q.x < -20 || q.y < -20 || q.x > size.x + 20 || q.y > size.y + 20) continue;
        c.beginPath();
        if (m.kind === 'load') c.rect(q.x - 5, q.y - 5, 10, 10);
        else if (m.kind === 'truck') {
          c.moveTo(q.x, q.y - 7);
          c.lineTo(q.x + 6, q.y + 5);
          c.lineTo(q.x - 6, q.y + 5);
          c.closePath();
        } else c.arc(q.x, q.y, 4, 0, 2 * Math.PI);
        c.fillStyle = m.id === chosen ? lark : panel;
        c.fill();
        c.lineWidth = 1.8;
        c.strokeStyle = m.id === chosen ? lark : ink;
        c.stroke();
      }

      // Trucks reserve space, so that no label covers one.
      for (const t of trucks) {
        const q = at(truckAt(t, now));
        taken.push([q.x - 8, q.y - 7, q.x + 8, q.y + 7]);
      }
      if (known) {
        const z = map.getZoom();
        const b = map.getBounds();
        const [nw, se] = [map.project(b.getNorthWest(), 0), map.project(b.getSouthEast(), 0)];
        for (const t of townsAt(known, z, [nw.x / 256, nw.y / 256, se.x / 256, se.y / 256])) {
          const q = map.latLngToLayerPoint(map.unproject([t.x * 256, t.y * 256], 0)).subtract(origin);
          c.font = `400 12px 'Atkinson Hyperlegible Next Variable', sans-serif`;
          const w = c.measureText(t.name).width;
          if (!free(q.x - 3, q.y - 7, w + 12, 14)) continue;
          c.beginPath();
          c.arc(q.x, q.y, 1.8, 0, 2 * Math.PI);
          c.fillStyle = mute;
          c.fill();
          written(t.name, q.x + 5, q.y, mute);
        }
      }
      stale = false;
    }

    const held = taken.length;
    c = sized(over, size);
    let moving = false;
    for (const t of trucks) {
      const g = glide.get(t.id);
      if (g && now - g.since < GLIDE) moving = true;
      const q = at(truckAt(t, now));
      if (q.x < -20 || q.y < -20 || q.x > size.x + 20 || q.y > size.y + 20) continue;
      const mine = t.id === chosen;
      c.beginPath();
      c.roundRect(q.x - 6, q.y - 5, 12, 10, 2.5);
      c.fillStyle = mine ? lark : t.urgent ? ember : ink;
      c.fill();
      c.lineWidth = 1.6;
      c.strokeStyle = panel;
      c.stroke();
      if (t.urgent) {
        c.beginPath();
        c.arc(q.x, q.y, 11, 0, 2 * Math.PI);
        c.strokeStyle = ember;
        c.stroke();
      }
      if (trucks.length <= 80 || mine) {
        c.font = `400 12px 'Atkinson Hyperlegible Next Variable', sans-serif`;
        const w = c.measureText(t.label).width;
        if (free(q.x + 9, q.y - 8, w + 2, 16)) written(t.label, q.x + 10, q.y, mine ? lark : ink, mine || t.urgent);
      }
    }

    taken.length = held;
    if (moving) wake();
  }

  function pick(e: L.LeafletMouseEvent) {
    const p = e.layerPoint.subtract(origin);
    const now = performance.now();
    const near = (q: L.Point, r: number) => Math.hypot(q.x - p.x, q.y - p.y) <= r;
    const truck = trucks.findLast((t) => near(at(truckAt(t, now)), 12));
    if (truck && onpick) return onpick('truck', truck.id);
    const mark = marks.findLast((m) => near(at(m.at), 10));
    if (mark && onpick) return onpick('mark', mark.id);
    const trip =
      onpick &&
      trips.findLast(
        (t) =>
          t.stops.some((s) => near(at(s.at), 12)) || t.line.some((q, i) => i > 0 && close(p, at(t.line[i - 1]), at(q))),
      );
    if (trip) return onpick!('trip', trip.id);
    onpoint?.([e.latlng.lng, e.latlng.lat]);
  }
  function close(p: L.Point, a: L.Point, b: L.Point) {
    const [dx, dy] = [b.x - a.x, b.y - a.y];
    const k = dx || dy ? Math.max(0, Math.min(1, ((p.x - a.x) * dx + (p.y - a.y) * dy) / (dx * dx + dy * dy))) : 0;
    return Math.hypot(a.x + k * dx - p.x, a.y + k * dy - p.y) <= 6;
  }

  onMount(() => {
    const m = L.map(box, {
      zoomControl: !still,
      attributionControl: false,
      zoomAnimation: false,
      fadeAnimation: false,
      markerZoomAnimation: false,
      scrollWheelZoom: !still,
      minZoom: 3,
      maxZoom: 13,
      zoomSnap: 0.25,
      maxBounds: [
        [10, -175],
        [75, -40],
      ],
      keyboard: true,
    }).setView([44, -103], 4);
    map = m;
    const Ground = L.GridLayer.extend({
      createTile(this: L.GridLayer, coords: L.Coords) {
        const tile = L.DomUtil.create('canvas', 'leaflet-tile') as HTMLCanvasElement;
        const size = this.getTileSize().x;
        const ratio = devicePixelRatio || 1;
        tile.width = tile.height = size * ratio;
        const c = tile.getContext('2d')!;
        c.scale(ratio, ratio);
        if (known) drawTile(known, ground(box), c, size, coords.x, coords.y, coords.z);
        return tile;
      },
    });
    const layer = new (Ground as unknown as new (o: L.GridLayerOptions) => L.GridLayer)({
      tileSize: 256,
      updateWhenZooming: false,
    });
    tiles = layer;
    under = L.DomUtil.create('canvas', 'pointer-events-none', m.getPane('overlayPane')!) as HTMLCanvasElement;
    over = L.DomUtil.create('canvas', 'pointer-events-none', m.getPane('overlayPane')!) as HTMLCanvasElement;
    m.on('moveend zoomend resize viewreset', moved);
    m.on('click', pick);
    // Until the user moves the map, the target stays in view.
    const takes = () => (mine = true);
    box.addEventListener('wheel', takes, { passive: true });
    m.on('dragstart', takes);
    m.on('keydown', takes);
    const resized = new ResizeObserver(() => {
      m.invalidateSize({ animate: false });
      if (!mine) keep();
    });
    resized.observe(box);
    base()
      .then((b) => {
        known = b;
        if (map) layer.addTo(m);
        moved();
      })
      .catch((e: Error) => (problem = e.message));
    const themed = new MutationObserver(() => {
      layer.redraw();
      stale = true;
      wake();
    });
    themed.observe(document.documentElement, { attributes: true, attributeFilter: ['class'] });
    void document.fonts.ready.then(() => {
      stale = true;
      wake();
    });
    onready?.(m);
    keep();
    return () => {
      resized.disconnect();
      themed.disconnect();
      m.remove();
      map = undefined;
    };
  });

  /** For print: the current view in the light theme, as one image of the page's width. */
  function onPaper() {
    if (!map || !paper) return;
    const night = document.documentElement.classList.contains('night');
    document.documentElement.classList.remove('night');
    tiles?.redraw();
    moved();
    const size = map.getSize();
    const c = sized(paper, size);
    Object.assign(paper.style, { width: 'auto', height: 'auto', maxWidth: '100%', maxHeight: '6.5in' });
    c.fillStyle = ground(box).water;
    c.fillRect(0, 0, size.x, size.y);
    const corner = box.getBoundingClientRect();
    for (const from of [...box.querySelectorAll<HTMLCanvasElement>('canvas.leaflet-tile'), under, over]) {
      const at = from.getBoundingClientRect();
      c.drawImage(from, at.left - corner.left, at.top - corner.top, at.width, at.height);
    }
    if (night) document.documentElement.classList.add('night');
  }

  function keep() {
    const around = boxOf(view);
    if (map && around) map.fitBounds(around, { padding: still ? [18, 18] : [34, 34], maxZoom: 12, animate: false });
  }
  let shown = '';
  $effect(() => {
    // Only a different target moves the map, not the same one again.
    const now = JSON.stringify(boxOf(view));
    if (now === shown) return;
    shown = now;
    mine = false;
    untrack(keep);
  });
  $effect(() => {
    const now = performance.now();
    for (const t of trucks) {
      const g = glide.get(t.id);
      if (!g) glide.set(t.id, { from: t.at, to: t.at, since: 0 });
      else if (g.to[0] !== t.at[0] || g.to[1] !== t.at[1])
        glide.set(t.id, { from: truckAt({ ...t, at: g.to }, now), to: t.at, since: now });
    }
    void [trips, marks, fences, chosen];
    stale = true;
    wake();
  });
</script>

<svelte:window onbeforeprint={onPaper} />
<canvas class="hidden print:block" bind:this={paper} aria-hidden="true"></canvas>
<div
  class="map relative isolate h-full w-full print:hidden"
  bind:this={box}
  role="application"
  aria-label={label}
></div>
{#if problem}<p class="text-mute p-2 text-sm" role="alert">{problem}</p>{/if}

<style>
  .map {
    background: var(--map-water);
    font: inherit;
  }
  .map :global(.leaflet-bar a) {
    background: var(--panel);
    color: var(--ink);
    border-color: var(--line);
  }
  .map :global(.leaflet-bar) {
    border-color: var(--line);
  }
  .map :global(.handle) {
    background: var(--panel);
    border: 2px solid var(--lark);
    border-radius: 9px;
  }
</style>
