import { expect, type Page } from '@playwright/test';
import { as, message, pick, select, test } from './business';

test('a rate is entered, the Canadian account filled, and a short payment taken in Canadian dollars', async ({
  browser,
}) => {
  const page = await as(browser, 'dana');
  await page.goto('/ledger?tab=accounts');
  await page.getByRole('link', { name: 'exchange rates' }).click();
  const usd = page.getByLabel('1 Canadian dollar in USD');
  await usd.fill('7.3');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/from 0.4 to 1.5/)).toBeVisible();
  await usd.fill('0.7350');
  await page.keyboard.press('Enter');
  await expect(message(page, /1 CAD is 0.735 USD/)).toBeVisible();
  await expect(page.getByRole('row', { name: /0.7350 entered by/ })).toBeVisible();

  // The account in Canadian dollars is filled from ours: the other line says what they cost.
  await page.goto('/ledger?tab=lines');
  await page.getByRole('button', { name: 'Journal entry' }).click();
  const entry = page.getByRole('complementary', { name: 'entry' });
  await entry.getByLabel('Description').fill('Transfer to the Canadian account');
  const accounts = entry.getByLabel('Account');
  for (const [i, code] of ['1010', '1000'].entries()) {
    await accounts.nth(i).click();
    await page.getByRole('option', { name: new RegExp(`^${code}`) }).click();
  }
  await entry.getByLabel('Debit, CAD').fill('1000');
  await entry.getByLabel('Credit', { exact: true }).last().fill('735.20');
  await expect(entry.getByText('worth 735.20 US dollars')).toBeVisible();
  await page.keyboard.press('Control+Enter');
  await expect(message(page, /Entry \d+ posted/)).toBeVisible();
  await expect(page.getByText('CA$1,000.00')).toBeVisible();

  // A payment is 150.00 short of its invoice, as a concession.
  await page.goto('/bill');
  await page.getByRole('button', { name: 'Record payment' }).first().click();
  await pick(page, 'From', 'Cypress Rail Seeds');
  await page.getByLabel('Amount, CAD').fill('2000');
  await page.keyboard.press('Tab');
  await expect(page.getByText('CA$150.00 short')).toBeVisible();
  await page.getByRole('textbox', { name: /^Short pay reason/ }).fill('two bags torn');
  await select(page, /^The rest of/, /concession/i);
  await page.getByRole('button', { name: /^Record CA\$2,000/ }).click();
  await expect(message(page, /CA\$2,000/)).toBeVisible();

  // A load for the same customer is priced in Canadian dollars, with the margin in ours.
  await page.goto('/cover');
  await page.getByRole('button', { name: /Medicine Hat → Great Falls/ }).click();
  const panel = page.getByRole('region', { name: 'Cover this load' });
  await panel.getByRole('tab', { name: 'Carrier' }).click();
  await pick(page, 'Carrier', 'Oldman');
  await panel.getByLabel('Pay, CAD').fill('1850');
  await expect(panel.getByRole('button', { name: 'Tender to Oldman Line Haul for CA$1,850' })).toBeVisible();
  await expect(panel.getByText(/Margin 25\d\.\d\d/)).toBeVisible();
});

test('an expense that one person paid is confirmed by another', async ({ browser }) => {
  const marta = await as(browser, 'marta');
  await marta.goto('/pay?tab=bills&enter=');
  await pick(marta, 'From', 'Lolo Tire');
  await marta.getByLabel('Bill number').fill('CARD-77');
  await marta.getByLabel('Amount billed').fill('84.50');
  await marta.getByLabel(/^Already paid/).check();
  await select(marta, 'Account', /^5400/);
  await marta.keyboard.press('Control+Enter');
  const waiting = (who: Page) =>
    who.getByRole('region', { name: 'Payments to confirm' }).getByRole('listitem').filter({ hasText: 'CARD-77' });
  await expect(waiting(marta).getByText('you entered it')).toBeVisible();
  await expect(waiting(marta).getByRole('button', { name: 'Confirm' })).toHaveCount(0);

  const dana = await as(browser, 'dana');
  await dana.goto('/pay?tab=bills');
  await waiting(dana).getByRole('button', { name: 'Confirm' }).click();
  await expect(message(dana, /Payment to Lolo Tire and Axle confirmed/)).toBeVisible();
  await expect(waiting(marta)).toHaveCount(0);
});
