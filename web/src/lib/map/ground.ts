import L from 'leaflet';
import { drawTile, ground, type Base } from './base';

/** The tiles below everything: land, water, borders and roads, drawn here from our own data. */
export function groundLayer(known: () => Base | undefined, box: HTMLElement): L.GridLayer {
  const Ground = L.GridLayer.extend({
    createTile(this: L.GridLayer, coords: L.Coords) {
      const tile = L.DomUtil.create('canvas', 'leaflet-tile') as HTMLCanvasElement;
      const size = this.getTileSize().x;
      const ratio = devicePixelRatio || 1;
      tile.width = tile.height = size * ratio;
      const c = tile.getContext('2d')!;
      c.scale(ratio, ratio);
      const data = known();
      if (data) drawTile(data, ground(box), c, size, coords.x, coords.y, coords.z);
      return tile;
    },
  });
  return new (Ground as unknown as new (o: L.GridLayerOptions) => L.GridLayer)({
    tileSize: 256,
    updateWhenZooming: false,
  });
}
