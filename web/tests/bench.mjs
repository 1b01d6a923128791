// What the first screen costs over the wire: the JavaScript that the built index names and what those import, gzipped.
import { gzipSync } from 'node:zlib';
import { readFileSync, readdirSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';

const LIMIT = 220 * 1024;
const pages = process.argv[2];
const index = readFileSync(join(pages, 'index.html'), 'utf8');
const seen = new Map();
function take(file) {
  if (seen.has(file)) return;
  const text = readFileSync(file);
  seen.set(file, gzipSync(text).length);
  for (const [, path] of text.toString().matchAll(/(?:^|[;}\s])(?:import|export)[^"'()]*?["'](\.[^"']+\.js)["']/g))
    take(resolve(dirname(file), path));
}
for (const [, path] of index.matchAll(/["'](\/?_app\/[^"']+\.js)["']/g)) take(join(pages, path));
// The layout and the first screen are loaded by the router: nodes 0 to 2 stand for them, and the largest page for whatever is opened first.
const nodes = join(pages, '_app/immutable/nodes');
const sizes = readdirSync(nodes).map((n) => [gzipSync(readFileSync(join(nodes, n))).length, n]);
for (const [, name] of [...sizes.filter(([, n]) => /^[01]\./.test(n)), sizes.sort((a, b) => b[0] - a[0])[0]])
  take(join(nodes, name));
const sum = [...seen.values()].reduce((a, b) => a + b, 0);
console.log(
  `initial JavaScript, gzipped                  ${(sum / 1024).toFixed(0)} KB in ${seen.size} files, limit ${LIMIT / 1024} KB${sum > LIMIT ? '  OVER' : ''}`,
);
process.exit(sum > LIMIT ? 1 : 0);
