<script lang="ts">
  import 'leaflet/dist/leaflet.css';
  import L from 'leaflet';
  import { onMount, untrack } from 'svelte';
  import { base, ground, townsAt, type Base } from './base';
  import { Brush, colorsOf, sized, drawFences, drawMarks, drawTowns, drawTrips, drawTrucks, Taken } from './draw';
  import { groundLayer } from './ground';
  import { boxOf, isNear, type MapFence, type MapMark, type MapTrip, type MapTruck, type Point } from './trips';

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
  const taken = new Taken();
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
    const now = performance.now();
    if (stale) {
      taken.clear();
      const brush = new Brush(sized(under, size), size, colorsOf(box), at, taken, chosen);
      drawFences(brush, fences);
      drawTrips(brush, trips);
      drawMarks(brush, marks);
      // Trucks reserve space, so that no label covers one.
      for (const t of trucks) taken.reserve(at(truckAt(t, now)), 8, 7);
      if (known) drawTowns(brush, townsIn(map, known));
      stale = false;
    }
    const held = taken.length;
    const gliding = (t: MapTruck) => now - (glide.get(t.id)?.since ?? -Infinity) < GLIDE;
    const brush = new Brush(sized(over, size), size, colorsOf(box), at, taken, chosen);
    drawTrucks(brush, trucks, (t) => truckAt(t, now));
    taken.cutTo(held);
    if (trucks.some(gliding)) wake();
  }
  function townsIn(m: L.Map, b: Base) {
    const bounds = m.getBounds();
    const [nw, se] = [m.project(bounds.getNorthWest(), 0), m.project(bounds.getSouthEast(), 0)];
    return townsAt(b, m.getZoom(), [nw.x / 256, nw.y / 256, se.x / 256, se.y / 256]).map((t) => ({
      name: t.name,
      q: m.latLngToLayerPoint(m.unproject([t.x * 256, t.y * 256], 0)).subtract(origin),
    }));
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
          t.stops.some((s) => near(at(s.at), 12)) ||
          t.line.some((q, i) => i > 0 && isNear(p, at(t.line[i - 1]), at(q))),
      );
    if (trip) return onpick!('trip', trip.id);
    onpoint?.([e.latlng.lng, e.latlng.lat]);
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
    const layer = groundLayer(() => known, box);
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
