// How many tests passed and failed, from what the runner left behind.
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

const [folder, name] = process.argv.slice(2);
const read = (file) => (existsSync(join(folder, file)) ? readFileSync(join(folder, file), 'utf8') : '');
let passed;
let failed;
if (name === 'Browser') {
  const stats = JSON.parse(read('browser.json') || '{}').stats;
  passed = (stats?.expected ?? 0) + (stats?.flaky ?? 0);
  failed = stats?.unexpected ?? 0;
} else if (name.startsWith('Pages')) {
  const all = JSON.parse(read('vitest.json') || '{}');
  passed = all.numPassedTests ?? 0;
  failed = all.numFailedTests ?? 0;
} else {
  const counters = /<Counters[^>]*\bpassed="(\d+)"[^>]*\bfailed="(\d+)"/.exec(read(`${name}.trx`));
  passed = Number(counters?.[1] ?? 0);
  failed = Number(counters?.[2] ?? 0);
}
console.log(passed, failed);
