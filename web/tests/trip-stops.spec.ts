import { expect, type Page } from '@playwright/test';
import { as, message, pick, test } from './business';
import { assignBest, get } from './plan';

/** The page of a trip with one load that begins later. */
async function tripPage(page: Page) {
  const leg = await assignBest(page);
  const { sheet } = await get<{ sheet: { load: { tripId: number } } }>(page, `loads/${leg.loadId}`);
  await page.goto(`/trip/${sheet.load.tripId}`);
  await expect(page.getByRole('heading', { name: /^Trip \d+/ })).toBeVisible();
}
/** Others find the load open again. */
async function dissolve(page: Page) {
  await page.getByRole('button', { name: 'Dissolve trip' }).click();
  await page
    .getByRole('group', { name: 'Dissolve trip' })
    .getByRole('button', { name: /^Dissolve trip/ })
    .click();
  await expect(message(page, /dissolved/)).toBeVisible();
}

test('a fuel stop is added to a trip, recorded, undone and removed', async ({ browser }) => {
  const page = await as(browser, 'ines');
  await tripPage(page);
  const visits = page.getByRole('list', { name: /^Visits of trip/ }).getByRole('listitem');
  const before = await visits.count();
  await page.getByRole('button', { name: 'Add a stop' }).click();
  const form = page.getByRole('group', { name: /^Add a stop to trip/ });
  await pick(page, 'Where', 'Missoula');
  await form.getByLabel('Minutes').fill('999999');
  await page.keyboard.press('Control+Enter');
  await expect(form.getByText('must be between 0 and 1,440')).toBeVisible();
  await form.getByLabel('Minutes').fill('40');
  await page.keyboard.press('Control+Enter');
  const anyway = page.getByRole('button', { name: 'Add stop anyway' });
  await expect(visits.nth(before).or(anyway)).toBeVisible();
  if (await anyway.isVisible()) await anyway.click();
  await expect(visits).toHaveCount(before + 1);
  const stop = visits.filter({ hasText: 'fuel' });
  await expect(stop).toContainText('40 min');

  await stop.getByRole('button', { name: 'Arrived' }).click();
  await expect(message(page, 'arrived in')).toBeVisible();
  await expect(stop).toContainText('arrived');
  await stop.getByRole('button', { name: 'Undo' }).click();
  await stop.getByRole('button', { name: 'Remove' }).click();
  await expect(visits).toHaveCount(before);
  await expect(page.getByText('Route', { exact: true })).toBeVisible();
  await dissolve(page);
});

test('a trailer that was seen elsewhere is hooked there first', async ({ browser }) => {
  const page = await as(browser, 'ines');
  await tripPage(page);
  const trip = page.url();
  const trailer = /trailer (\d+)/.exec((await page.getByText(/^truck \d+ · trailer \d+/).textContent()) ?? '')![1];
  await page.goto('/plan');
  await page.getByRole('button', { name: /^Trailers/ }).click();
  const row = page.getByRole('row').filter({ hasText: `Trailer ${trailer}` });
  await row.getByRole('button', { name: `Trailer ${trailer}` }).click();
  const form = page.getByRole('form', { name: `Location of Trailer ${trailer}` });
  await form.getByRole('button', { name: 'Set location' }).click();
  await expect(form.getByText('Choose where it is')).toBeVisible();
  await pick(page, 'Where it is', 'Bozeman MT');
  await form.getByRole('button', { name: 'Set location' }).click();
  await expect(message(page, `Trailer ${trailer} in Bozeman MT`)).toBeVisible();
  await expect(row).toContainText('Bozeman MT');

  await page.goto(trip);
  await expect(
    page.getByText(new RegExp(`Trailer ${trailer} was in Bozeman MT .*add a stop to hook it`)),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Add a stop' }).click();
  const stop = page.getByRole('group', { name: /^Add a stop to trip/ });
  await expect(stop.getByLabel('Stop', { exact: true })).toContainText(`Hook trailer ${trailer}`);
  await pick(page, 'Where', 'Helena MT');
  await page.getByRole('button', { name: 'Add stop' }).click();
  await expect(stop.getByText(`Trailer ${trailer} is not in Helena MT: it was in Bozeman MT`)).toBeVisible();
  await stop.getByLabel(/^Where/).fill('');
  await page.getByRole('button', { name: /^Add stop/ }).click();
  const first = page
    .getByRole('list', { name: /^Visits of trip/ })
    .getByRole('listitem')
    .first();
  const anyway = page.getByRole('button', { name: 'Add stop anyway' });
  await expect(first.getByText(`hook trailer ${trailer}`).or(anyway)).toBeVisible();
  if (await anyway.isVisible()) await anyway.click();
  await expect(first).toContainText(`Bozeman MT hook trailer ${trailer}`);
  await expect(page.getByText('add a stop to hook it')).toBeHidden();
  await dissolve(page);
});
