import { expect, type Page } from '@playwright/test';
import { as, message, test } from './business';

/** How many different colours a canvas shows, of a few thousand points. */
const colours = (page: Page, canvas: string) =>
  page
    .locator(canvas)
    .first()
    .evaluate((c: HTMLCanvasElement) => {
      const data = c.getContext('2d')!.getImageData(0, 0, c.width, c.height).data;
      const seen = new Set<number>();
      for (let i = 0; i < data.length; i += 4 * 97) seen.add((data[i] << 16) | (data[i + 1] << 8) | data[i + 2]);
      return seen.size;
    });
/** Tabs on until what has the focus is called so. */
async function tabTo(page: Page, name: RegExp) {
  for (let i = 0; i < 60; i++) {
    await page.keyboard.press('Tab');
    const here = await page.evaluate(() => {
      const e = document.activeElement as HTMLInputElement;
      if (e === document.body) return '';
      return `${e.getAttribute('aria-label') ?? ''} ${e.labels?.[0]?.innerText ?? ''} ${e.innerText ?? ''}`;
    });
    if (name.test(here)) return;
  }
  throw new Error(`Tab does not come to ${name}`);
}

test('the map by keyboard: moving trucks, one route in view, and a near search', async ({ browser }) => {
  const page = await as(browser, 'dana');
  await page.goto('/map');
  await expect(page.locator('canvas.leaflet-tile').first()).toBeVisible();
  await expect.poll(() => colours(page, 'canvas.leaflet-tile')).toBeGreaterThan(2);
  const rows = page.locator('section button.block[aria-current]');
  await expect(rows.nth(2)).toBeVisible();
  await tabTo(page, / to /);
  await expect(rows.first()).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(rows.nth(1)).toHaveAttribute('aria-current', 'true');
  await expect(page.getByRole('complementary', { name: 'load' })).toContainText(
    (await rows.nth(1).locator('b').innerText()).trim(),
  );

  // For paper: the same as one picture, by day also when the screen shows the night.
  await page.evaluate(() => document.documentElement.classList.add('night'));
  await page.evaluate(() => window.dispatchEvent(new Event('beforeprint')));
  expect(await colours(page, 'canvas.print\\:block')).toBeGreaterThan(4);
  const corner = await page
    .locator('canvas.print\\:block')
    .first()
    .evaluate((c: HTMLCanvasElement) => {
      const data = c.getContext('2d')!.getImageData(0, 0, c.width, c.height).data;
      let light = 0;
      for (let i = 0; i < data.length; i += 400) light += data[i] + data[i + 1] + data[i + 2] > 500 ? 1 : 0;
      return light / (data.length / 400);
    });
  expect(corner).toBeGreaterThan(0.7);
  await page.evaluate(() => document.documentElement.classList.remove('night'));

  await page.goto('/map?tab=near');
  await tabTo(page, /Near, or from/);
  await page.keyboard.type('Bute MT');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('status').filter({ hasText: 'Butte MT' })).toBeVisible();
  await tabTo(page, /Butte MT/);
  await page.keyboard.press('Enter');
  await tabTo(page, /Within/);
  await page.keyboard.press('Control+a');
  await page.keyboard.type('130');
  await tabTo(page, /^ *Search *$/);
  await page.keyboard.press('Enter');
  await expect(page.locator('section button').filter({ hasText: ' mi' }).first()).toBeVisible();
  const miles = await page.locator('section button .fig').allInnerTexts();
  const figures = miles.filter((m) => / mi$/.test(m)).map((m) => parseFloat(m));
  expect(figures.length).toBeGreaterThan(0);
  expect(figures.every((m, i) => m <= 130 && (i === 0 || m >= figures[i - 1]))).toBe(true);
});

test('a list of addresses becomes runs, and a stop is moved, all by keyboard', async ({ browser }) => {
  test.setTimeout(120_000);
  const page = await as(browser, 'dana');
  await page.goto('/runs?new');
  await tabTo(page, /Stops, one per line/);
  await page.keyboard.insertText(
    [
      'Snowberry; Missoula MT; 15 min; 08:00-10:00',
      'Low Bench; Hamilton MT; 20 min; 9-12',
      'Ninepipe; Stevensvile MT; 10 min',
      'Cherry Lantern; Polson MT; 15 min',
      'Bell; Lolo MT; 10',
      'At sea; 40.2, -73.0; 10',
    ].join('\n'),
  );
  await page.keyboard.press('Control+Enter');
  await expect(page.getByRole('button', { name: 'Stevensville MT' })).toBeVisible();
  await expect(page.getByText(/is in the water/)).toBeVisible();
  await tabTo(page, /^ *Stevensville MT/);
  await page.keyboard.press('Enter');
  await tabTo(page, /Skip line 6/);
  await page.keyboard.press('Enter');
  await tabTo(page, /Terminal/);
  await page.keyboard.type('Missoula MT');
  await tabTo(page, /Drivers/);
  await page.keyboard.press('a');
  await tabTo(page, /Plan 5 stops/);
  await expect(page.getByRole('button', { name: 'Plan 5 stops' })).toBeEnabled();
  await page.keyboard.press('Enter');
  const stops = page.locator('[data-stop]');
  await expect(stops).toHaveCount(5, { timeout: 60_000 });
  await tabTo(page, /Snowberry|Bell|Low Bench|Ninepipe|Cherry/);
  const first = await stops.first().innerText();
  await page.keyboard.press('Alt+ArrowDown');
  await expect(page.getByText(/[+−±]\d.* mi, [+−±]\d+ min/).first()).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(message(page, /moved to driver A: /)).toBeVisible();
  await expect.poll(() => stops.first().innerText()).not.toBe(first);
});

test('a load’s route gets a via point and loses it again', async ({ browser }) => {
  const page = await as(browser, 'dana');
  await page.goto('/cover');
  await expect(page.locator('main li, main [data-row]').first()).toBeVisible();
  await page.keyboard.press('j');
  const sheet = page.getByRole('complementary');
  const loaded = sheet
    .getByText(/mi loaded/)
    .locator('b')
    .first();
  await expect(loaded).toBeVisible();
  const before = await loaded.innerText();
  await sheet.locator('li').getByRole('button', { name: 'Change', exact: true }).first().focus();
  await page.keyboard.press('Enter');
  await tabTo(page, /^ *Via/);
  await page.keyboard.type('Amarillo TX');
  await page.keyboard.press('Enter');
  await expect(sheet.getByRole('button', { name: 'Remove via Amarillo TX' })).toBeVisible();
  await expect.poll(() => loaded.innerText()).not.toBe(before);
  await expect(sheet.getByText(/TX\s+\d/).first()).toBeVisible();
  await sheet.getByRole('button', { name: 'Reset to the standard route' }).press('Enter');
  await expect.poll(() => loaded.innerText()).toBe(before);
});
