import { expect } from '@playwright/test';
import { as, message, pick, select, test } from './business';
import { get } from './plan';

interface Row {
  load: { id: number; number: string; reference: string | null; tripId: number | null };
}

/** The trip of the demo's loads with a kind of reference. */
async function tripOf(page: Parameters<typeof get>[0], reference: string) {
  const { rows } = await get<{ rows: Row[] }>(page, 'loads?view=moving&limit=500');
  return rows.find((r) => r.load.reference?.startsWith(reference))!.load.tripId!;
}

test('compartments are drawn on a trip, and a tanker load is booked by product and gallons', async ({ browser }) => {
  const page = await as(browser, 'ines');
  await page.goto(`/trip/${await tripOf(page, 'BLK')}`);
  const tank = page.locator('section').filter({ has: page.getByRole('heading', { name: 'Compartments' }) });
  await expect(tank.getByRole('columnheader', { name: /No\. 1/ })).toContainText('1,900 gal');
  await expect(tank.getByRole('row', { name: /delivery/ }).last()).toContainText('empty');
  await expect(tank.getByText(/gal brewing syrup/).first()).toBeVisible();

  // A new load from the form, by keyboard: the weight is the product's.
  await page.goto('/book?new');
  const form = page.getByRole('form', { name: 'Book a load' });
  await pick(page, 'Customer', 'Amber Kettle Brewing');
  await select(form, /^Equipment/, 'tanker');
  await select(form, /^Product/, 'brewing syrup');
  await form.getByLabel(/^Volume/).fill('6,401');
  await expect(form.getByLabel('Weight, lb')).toHaveAttribute('placeholder', '74,252');
  await form.getByRole('button', { name: 'Save as draft' }).click();
  await expect(message(page, 'saved as a draft.')).toBeVisible();
  await expect(page.getByText(/Brewing syrup · 6,401 gal · 74,252 lb/).first()).toBeVisible();
});

test('vehicles have their own fields, a wrong VIN is said, and cash on delivery is recorded and undone', async ({
  browser,
}) => {
  const page = await as(browser, 'ines');
  const trip = await tripOf(page, 'VEH');
  await page.goto(`/trip/${trip}`);
  const decks = page.locator('section').filter({ has: page.getByRole('heading', { name: 'Decks' }) });
  await expect(decks.getByRole('columnheader', { name: /upper/ })).toBeVisible();
  await expect(decks.getByText(/large SUV/).first()).toBeVisible();

  const { rows } = await get<{ rows: Row[] }>(page, 'loads?view=moving&limit=500');
  const load = rows.find((r) => r.load.reference === 'VEH 6138')!.load;
  await page.goto(`/load/${load.id}`);
  await page.getByRole('button', { name: 'Record what was collected' }).click();
  const record = page.getByRole('form', { name: 'Record what was collected' });
  await record.getByRole('button', { name: 'Record' }).click();
  await expect(record.getByText('Choose how the receiver paid')).toBeVisible();
  await select(record, 'Paid by', 'Check');
  await record.getByRole('button', { name: 'Record' }).click();
  await expect(page.getByText(/^\$425(\.00)? collected, check/)).toBeVisible();
  await message(page, '$425').getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('not collected yet')).toBeVisible();

  await page.goto('/book?new');
  const form = page.getByRole('form', { name: 'Book a load' });
  await pick(page, 'Customer', 'Quiet Basin Campers');
  await select(form, /^Equipment/, 'car hauler');
  await form.getByLabel('VIN').fill('0TBLK0521A0040218');
  await select(form, 'Body style', 'pickup');
  await expect(form.getByLabel('Length, in')).toHaveAttribute('placeholder', '214');
  await form.getByRole('button', { name: 'Save as draft' }).click();
  await expect(form.getByText(/check the VIN; its check digit, the 9th character/)).toBeVisible();
});
