import { Buffer } from 'node:buffer';
import { expect } from '@playwright/test';
import { as, message, select, test } from './business';
import { get } from './plan';

/** The smallest PNG there is: one white point. */
const onePoint = 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8/5+hHgAHggJ/PchI7wAAAABJRU5ErkJggg==';

test('a driver reports fuel with a photo, it is declined, reported again and approved', async ({ browser }) => {
  const phone = await as(browser, 'moses', true);
  const mine = phone.getByRole('region', { name: 'Expenses' });
  await mine.getByRole('button', { name: 'Fuel', exact: true }).click();
  await mine.getByLabel('Gallons').fill('90');
  await mine.getByLabel('Total').fill('333');
  await expect(mine.getByText('3.700 a gallon')).toBeVisible();
  await mine.getByRole('button', { name: 'Send' }).click();
  await expect(mine.getByText('Enter the state or province')).toBeVisible();
  await mine.getByLabel('State').fill('mt');
  await mine.getByLabel('Paid to').fill('Elk Park Fuel');
  await mine.getByLabel('Receipt: take a photo').setInputFiles({
    name: 'receipt.png',
    mimeType: 'image/png',
    buffer: Buffer.from(onePoint, 'base64'),
  });
  await expect(mine.getByText('Photo of the receipt taken')).toBeVisible();
  await mine.getByRole('button', { name: 'Send' }).click();
  const sent = mine.getByRole('listitem').filter({ hasText: 'Elk Park Fuel MT' });
  await expect(sent).toContainText('90 gal');
  await expect(sent).toContainText('sent');

  // Today leads the bookkeeper there.
  const books = await as(browser, 'marta');
  await books
    .getByRole('button', { name: 'Approve' })
    .or(books.getByRole('link', { name: 'Approve' }))
    .first()
    .waitFor();
  await books.goto('/pay?tab=expenses');
  const toApprove = books.getByRole('region', { name: 'Expenses to approve' });
  const row = toApprove.locator('div').filter({ hasText: 'Elk Park Fuel' }).first();
  await expect(row.getByRole('link', { name: 'Receipt' })).toBeVisible();
  await toApprove.getByRole('button', { name: 'Decline Fuel, $333' }).click();
  await toApprove.getByLabel('Reason, shown to the driver').fill('Which truck?');
  await books.keyboard.press('Enter');
  await expect(message(books, 'Fuel, $333, declined.')).toBeVisible();
  await phone.reload();
  await expect(sent).toContainText('declined: Which truck?');

  await message(books, 'Fuel, $333, declined.').getByRole('button', { name: 'Undo' }).click();
  await toApprove.getByRole('button', { name: 'Approve Fuel, $333' }).click();
  await expect(message(books, 'Fuel, $333, approved.')).toBeVisible();
  await phone.reload();
  await expect(sent).toContainText('approved');

  // On the trip, next to what was planned; removed again.
  const { tripId } = (await get<{ tripId: number }[]>(phone, 'mine/loads'))[0];
  await books.goto(`/trip/${tripId}`);
  await expect(
    books.getByRole('table', { name: 'Planned and spent' }).getByRole('row', { name: /^Fuel/ }),
  ).toBeVisible();
  await expect(books.getByText('90 gal at 3.700 · company card')).toBeVisible();
  await books.getByRole('button', { name: 'Remove Fuel, $333' }).click();
  await expect(message(books, 'Fuel, $333, removed.')).toBeVisible();
});

test('an expense is entered on a trip by keyboard, with what is wrong in words', async ({ browser }) => {
  const page = await as(browser, 'marta');
  const board = await get<{ drivers: { trips: { id: number; startedAt: string | null }[] }[] }>(page, 'plan?days=7');
  const trip = board.drivers.flatMap((d) => d.trips).find((t) => t.startedAt)!;
  await page.goto(`/trip/${trip.id}`);
  await page.getByRole('button', { name: 'Add expense' }).click();
  const form = page.getByRole('group', { name: /^Expense on trip/ });
  await expect(form.getByLabel('State or province')).toBeFocused();
  await page.keyboard.type('or');
  await page.keyboard.press('Enter');
  await expect(form.getByLabel('Gallons')).toBeFocused();
  await page.keyboard.type('102.5');
  await form.getByLabel('Price per gallon').fill('3.799');
  await expect(form.getByText('comes to 389.40')).toBeVisible();
  await form.getByLabel('Amount').fill('427.95');
  await page.keyboard.press('Control+Enter');
  await expect(form.getByText('102.5 gallons at 3.799 come to 389.40, not 427.95')).toBeVisible();
  await form.getByLabel('Amount').fill('');
  await page.keyboard.press('Control+Enter');
  await expect(message(page, 'Fuel, $389.40, entered on trip')).toBeVisible();

  // On account it needs a vendor and its number.
  await page.getByRole('button', { name: 'Add expense' }).click();
  await select(form, 'Expense', 'Repair');
  await select(form, 'Paid by', 'On account');
  await form.getByLabel('Amount').fill('250');
  await page.keyboard.press('Control+Enter');
  await expect(form.getByText('Choose the vendor who sends the bill.')).toBeVisible();
  await expect(form.getByText("The vendor's invoice number is required.")).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Remove Fuel, $389.40' }).click();
  await message(page, 'Fuel, $389.40, removed.').getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Approve Fuel, $389.40' })).toBeVisible();
  await page.getByRole('button', { name: 'Remove Fuel, $389.40' }).click();
});
