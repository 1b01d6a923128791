import { describe, expect, it } from 'vitest';
import { drawTile, project, townsAt, unpack } from './base';
import { boxOf } from './trips';
import { clock, letter, minutes } from '../runs/clock';

const packed = {
  // Two squares: ours with a road across, and a neighbor's.
  regions: [{ id: 'MT', rings: [[-114000, 46000, 2000, 0, 0, 2000, -2000, 0]] }],
  around: [{ id: 'Elsewhere', rings: [[-118000, 46000, 1000, 0, 0, 1000, -1000, 0]] }],
  roads: [
    { n: 'I-90', k: 0, l: [-114000, 47000, 1000, 0, 1000, 0] },
    { n: 'MT highways', k: 3, l: [-113000, 46000, 0, 2000] },
    { n: 'ferry', k: 5, l: [-118000, 46500, 1000, 0] },
  ],
  towns: [
    ['Large', 'MT', -113500, 46900, 300000],
    ['Middling', 'MT', -113100, 46500, 12000],
    ['Small', 'MT', -112500, 47500, 2600],
  ] as [string, string, number, number, number][],
};

describe('the base map', () => {
  const base = unpack(packed);

  it('unpacks steps into the unit square of Web Mercator', () => {
    expect(project(0, 0)).toEqual([0.5, 0.5]);
    expect(project(-180, 85.051129)[0]).toBe(0);
    const [x, y] = project(-112, 48);
    expect(base.land[0].box[2]).toBeCloseTo(x, 9);
    expect(base.land[0].box[1]).toBeCloseTo(y, 9);
    expect([...base.roads.find((r) => r.name === 'I-90')!.xy]).toHaveLength(6);
    // Major roads last, so that they are on top.
    expect(base.roads.map((r) => r.kind)).toEqual([5, 3, 0]);
  });

  it('names the large towns first and the small ones only from near', () => {
    const all: [number, number, number, number] = [0, 0, 1, 1];
    expect(townsAt(base, 4, all).map((t) => t.name)).toEqual(['Large']);
    expect(townsAt(base, 8.5, all).map((t) => t.name)).toEqual(['Large', 'Middling']);
    expect(townsAt(base, 11, all).map((t) => t.name)).toEqual(['Large', 'Middling', 'Small']);
    const [x, y] = project(-112.5, 47.5);
    expect(townsAt(base, 11, [x - 1e-4, y - 1e-4, x + 1e-4, y + 1e-4]).map((t) => t.name)).toEqual(['Small']);
  });

  it('draws a tile’s content, each kind of road from its own zoom on', () => {
    const drawn = (z: number, lon: number, lat: number) => {
      const strokes: { width: number; dash: number[] }[] = [];
      let dash: number[] = [];
      const c = {
        set fillStyle(_: string) {},
        set strokeStyle(_: string) {},
        lineWidth: 0,
        fillRect() {},
        beginPath() {},
        closePath() {},
        moveTo() {},
        lineTo() {},
        fill() {},
        setLineDash: (d: number[]) => (dash = d),
        stroke() {
          strokes.push({ width: this.lineWidth, dash });
        },
      };
      const [x, y] = project(lon, lat);
      const colours = { water: '', land: '', away: '', border: '', road: '', big: '' };
      drawTile(
        base,
        colours,
        c as unknown as CanvasRenderingContext2D,
        256,
        Math.floor(x * 2 ** z),
        Math.floor(y * 2 ** z),
        z,
      );
      return strokes;
    };
    // One side of land and the Interstate; zoomed in also the two-lane roads.
    expect(drawn(4, -113, 47).length).toBe(3);
    expect(drawn(7, -113.01, 47.01).length).toBeGreaterThanOrEqual(3);
    // At sea there is nothing to draw.
    expect(drawn(7, -150, 20)).toEqual([]);
    // A ferry is a dashed line.
    expect(drawn(7, -117.5, 46.5).some((s) => s.dash.length > 0)).toBe(true);
    expect(drawn(4, -117.5, 46.5).every((s) => s.dash.length === 0)).toBe(true);
  });
});

describe('the bounding box', () => {
  it('contains all points, south-west and north-east, latitude first', () => {
    expect(boxOf([])).toBeNull();
    expect(
      boxOf([
        [-113, 46],
        [-112, 45],
        [-114, 47],
      ]),
    ).toEqual([
      [45, -114],
      [47, -112],
    ]);
  });
});

describe('the clock of runs', () => {
  it.each([
    ['8', 480],
    ['0830', 510],
    ['830', 510],
    ['8:05', 485],
    ['5:30 pm', 1050],
    ['12am', 0],
    ['12 pm', 720],
    ['24:00', 1440],
    ['24:30', null],
    ['25', null],
    ['13pm', null],
    ['8:60', null],
    ['noon', null],
    ['', null],
  ])('reads "%s"', (text, at) => expect(minutes(text)).toBe(at));

  it('shows minutes from midnight, also of a later day', () => {
    expect(clock(0)).toBe('00:00');
    expect(clock(1439)).toBe('23:59');
    expect(clock(1500)).toBe('01:00 +1d');
    expect([0, 25, 26].map(letter)).toEqual(['A', 'Z', '27']);
  });
});
