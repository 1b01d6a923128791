// How smooth the map stays: node web/tests/map-bench.mjs http://127.0.0.1:4180 [trucks]
// Every truck gets a new position every second. Measured: frames per second while they move, and while the map is dragged as well.
import { chromium } from '@playwright/test';

const [address = 'http://127.0.0.1:4180', trucks = '500'] = process.argv.slice(2);
const browser = await chromium.launch({
  executablePath: process.env.LARK_CHROMIUM ?? '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu'],
});
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
await page.goto(`${address}/signin`);
await page.getByLabel('Name').fill('dana');
await page.getByLabel('Password').fill('steady-lark');
await page.keyboard.press('Enter');
await page.waitForURL((u) => !u.pathname.includes('signin'));

let told = 0;
await page.route('**/api/map/loads', (route) => {
  told++;
  const loads = Array.from({ length: Number(trucks) }, (_, i) => {
    const lon = -120 + (i % 25) * 1.8 + told * 0.05 + Math.sin(i) * 0.4;
    const lat = 33 + Math.floor(i / 25) * 0.75 + Math.cos(i + told) * 0.05;
    const at = (dx, dy) => [lon + dx, lat + dy];
    const stop = (kind, where, done) => ({ kind, place: 'A place', town: 'A MT', at: where, done });
    return {
      id: i + 1,
      number: String(9000 + i),
      state: 'rolling',
      lane: 'A to B',
      who: 'D. Driver',
      word: 'next in 2 h',
      urgency: i % 40 ? 'none' : 'now',
      stops: [stop('pickup', at(-1, 0), true), stop('delivery', at(1, 0.5), false)],
      at: at(0, 0),
      seenAt: '2026-11-23T20:00:00Z',
      seenWhere: 'in A',
      line: [at(-1, 0), at(-0.3, 0.1), at(0, 0), at(0.5, 0.3), at(1, 0.5)],
    };
  });
  return route.fulfill({ json: loads });
});
// What the page asks for every half a minute it asks for every second.
await page.addInitScript(() => {
  const real = window.setInterval;
  window.setInterval = (f, t, ...more) => real(f, t === 30000 ? 1000 : t, ...more);
});
await page.goto(`${address}/map`);
await page.waitForTimeout(4000);

const frames = (ms, drag) =>
  page.evaluate(
    ([ms, drag]) =>
      new Promise((done) => {
        const map = document.querySelector('.map');
        const { x, y } = map.getBoundingClientRect();
        const mouse = (type, px, py) =>
          (type === 'mousedown' ? map : document).dispatchEvent(
            new MouseEvent(type, { clientX: px, clientY: py, bubbles: true, button: 0, buttons: 1 }),
          );
        const times = [];
        const began = performance.now();
        if (drag) mouse('mousedown', x + 400, y + 300);
        const step = (now) => {
          times.push(now);
          const k = (now - began) / ms;
          if (drag) mouse('mousemove', x + 400 - 300 * Math.sin(k * 6), y + 300 + 100 * Math.sin(k * 9));
          if (k < 1) return requestAnimationFrame(step);
          if (drag) mouse('mouseup', x + 400, y + 300);
          done((times.length - 1) / ((times.at(-1) - times[0]) / 1000));
        };
        requestAnimationFrame(step);
      }),
    [ms, drag],
  );
const still = await frames(6000, false);
const dragged = await frames(4000, true);
console.log(
  `${trucks} trucks on the map, ${told} times told          ${still.toFixed(0)} frames a second, ${dragged.toFixed(0)} while dragged, limit 30${Math.min(still, dragged) < 30 ? '  UNDER' : ''}`,
);
await browser.close();
process.exit(Math.min(still, dragged) < 30 ? 1 : 0);
