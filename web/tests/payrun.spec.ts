import { expect } from '@playwright/test';
import { as, select, test } from './business';

/** A Friday's bills, by keyboard: chosen by due date, one paid in part, one check for each payee. */
test('bills are paid in one batch, by keyboard', async ({ browser }) => {
  const page = await as(browser, 'dana');
  await page.goto('/pay?tab=bills');
  await page.getByRole('heading', { name: 'Pay', exact: true }).waitFor();
  await page.keyboard.press('p');
  const sheet = page.getByRole('complementary', { name: 'pay bills' });
  const through = sheet.getByLabel('Due through');
  await expect(through).toBeFocused();
  await through.fill('Dec 4');
  await through.press('Tab');
  const bills = sheet.getByRole('group', { name: 'Bills to pay' });
  const chosen = bills.getByRole('checkbox', { checked: true });
  // The bills come a moment after the sheet.
  await expect.poll(() => chosen.count()).toBeGreaterThan(3);
  const count = await chosen.count();
  await chosen.first().focus();
  await page.keyboard.press('Space');
  await expect(chosen).toHaveCount(count - 1);
  await sheet.getByRole('button', { name: 'Pay part' }).first().click();
  const amount = bills.getByLabel(/^Pay of /).first();
  await amount.fill('100');
  await select(sheet, 'Method', 'Check');
  await sheet.getByLabel('First check number').fill('2041');
  await page.keyboard.press('Control+Enter');
  const done = sheet.getByText(/^Paid .* by Check/).locator('..');
  await expect(done).toContainText('Check 2041');
  await expect(done).toContainText('Check 2042');
  await expect(done).toContainText('100.00');
});
