import { AxeBuilder } from '@axe-core/playwright';
import { expect } from '@playwright/test';
import { as, faults, test } from './business';

/** Every room with what opens in it; by night the ones that draw or colour something of their own. */
const views = {
  day: [
    '/today',
    '/book?new',
    '/cover',
    '/plan',
    '/plan/trips',
    '/roll',
    '/bill',
    '/bill?tab=documents',
    '/bill?tab=in&receive=',
    '/pay?driver=3',
    '/pay?tab=bills&enter',
    '/ledger?tab=months&by=customer',
    '/ledger?tab=periods',
    '/setup?company=3',
    '/setup?tab=fleet&driver=2',
    '/setup?place=23',
    '/map',
    '/map?tab=near',
    '/runs?new',
    '/simulator',
    '/ui',
  ],
  night: ['/today', '/cover', '/plan', '/plan/trips', '/roll', '/bill', '/pay?driver=3', '/ledger', '/map', '/ui'],
};

for (const theme of ['day', 'night'] as const) {
  test(`nothing serious stands in anyone's way, by ${theme}`, async ({ browser }) => {
    test.setTimeout(240_000);
    const page = await as(browser, 'dana');
    await page.evaluate((t) => localStorage.setItem('lark-theme', t), theme);
    const found: string[] = [];
    for (const view of views[theme]) {
      await page.goto(view);
      await page.waitForTimeout(900);
      if (view === '/roll' || view === '/cover') await page.keyboard.press('j');
      await page.waitForTimeout(500);
      const { violations } = await new AxeBuilder({ page }).analyze();
      for (const v of violations.filter((v) => v.impact === 'serious' || v.impact === 'critical'))
        found.push(`${view}: ${v.id}: ${v.nodes[0].html.slice(0, 160)} ${v.nodes[0].any[0]?.message ?? ''}`);
      const wide = await page.evaluate(() => document.documentElement.scrollWidth > innerWidth);
      if (wide) found.push(`${view} scrolls sideways`);
    }
    expect(found).toEqual([]);
    expect(faults.splice(0)).toEqual([]);
  });
}

test('one user’s changes appear for another, and the spine’s count agrees with Today', async ({ browser }) => {
  const [one, other] = [await as(browser, 'bo'), await as(browser, 'ines')];
  await one.goto('/today');
  await other.goto('/book');
  const drafts = one.getByRole('link', { name: /^Book/ });
  await expect(drafts).toHaveText(/\d/);
  const before = Number((await drafts.innerText()).replace(/\D/g, ''));
  await other.getByRole('button', { name: 'New load' }).click();
  await other.getByRole('button', { name: 'Save as draft' }).click();
  await expect(drafts).toHaveText(new RegExp(`Book\\s*${before + 1}`));
  await one.goto('/today');
  await expect(one.locator('main li').first()).toBeVisible();
  await expect
    .poll(async () => Number((await one.getByRole('link', { name: /^Today/ }).innerText()).replace(/\D/g, '')))
    .toBe(await one.locator('main li').count());
});

test('a read-only user finds no button that changes anything, and a driver sees only their own loads', async ({
  browser,
}) => {
  const vic = await as(browser, 'vic');
  await vic.goto('/roll');
  await expect(vic.getByRole('region', { name: 'Moving loads' }).getByRole('button').first()).toBeVisible();
  await vic.keyboard.press('j');
  const sheet = vic.getByRole('complementary', { name: 'load' });
  await expect(sheet.getByText('Stops')).toBeVisible();
  await expect(sheet.getByRole('button', { name: /At stop|Left|Delivered|Undo|Edit/ })).toHaveCount(0);
  const driver = await as(browser, 'lena', true);
  await driver.goto('/ledger');
  await expect(driver).toHaveURL(/\/phone/);
  expect((await driver.request.get('/api/today')).status()).toBe(403);
});

test('rooms, rows and sheets by keyboard alone', async ({ browser }) => {
  const page = await as(browser, 'dana');
  await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
  await page.keyboard.press('5');
  await expect(page.getByRole('heading', { name: 'Roll' })).toBeVisible();
  await expect(page.getByRole('region', { name: 'Moving loads' }).getByRole('button').first()).toBeVisible();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('complementary', { name: 'load' })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('complementary', { name: 'load' })).toHaveCount(0);
  await page.keyboard.press('2');
  await expect(page.getByRole('heading', { name: 'Book', exact: true })).toBeVisible();
  await page.keyboard.press('n');
  await expect(
    page.getByRole('form', { name: 'Book a load' }).getByRole('combobox', { name: /^Customer/ }),
  ).toBeFocused();
});
