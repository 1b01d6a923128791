import { expect } from '@playwright/test';
import { as, select, test } from './business';

test('a claim is acknowledged, settled and deducted from the carrier’s bill, which is then paid', async ({
  browser,
}) => {
  const page = await as(browser, 'dana');
  await page.goto('/bill?tab=claims');
  const grid = page.getByRole('grid');
  await grid.getByRole('row').filter({ hasText: 'CL-1002' }).click();
  const sheet = page.getByRole('complementary', { name: 'claim' });
  await expect(sheet).toContainText('acknowledge the claim in writing');
  await sheet.getByRole('button', { name: 'Acknowledge' }).click();
  await expect(sheet).toContainText('pay, decline or make a firm offer');
  await sheet.getByRole('button', { name: 'File with carrier' }).click();
  await page.keyboard.press('Control+Enter');
  await expect(sheet).toContainText('claim filed');

  // What is settled is credited on the invoice; the carrier's pay stays on hold until it is recovered.
  await sheet.getByRole('button', { name: 'Decide' }).click();
  await select(sheet, 'Outcome', 'Settled for less');
  await sheet.getByLabel('Settled at').fill('250');
  await sheet.getByLabel('Explanation').fill('salvage value of 58');
  await page.keyboard.press('Control+Enter');
  await expect(sheet.getByRole('link', { name: /^CM-\d+$/ })).toBeVisible();
  await expect(sheet).toContainText('Pay on hold');
  await sheet.getByRole('link', { name: /^Bill / }).click();
  const bill = page.getByRole('complementary', { name: 'bill' });
  await expect(bill).toContainText('On hold');
  await bill.getByRole('button', { name: 'Debit memo' }).click();
  await expect(bill.getByLabel('Deduct')).toHaveValue('250.00');
  await page.keyboard.press('Control+Enter');
  await expect(bill).toContainText(/Debit memo\s+DM-\d+/);
  await expect(bill).not.toContainText('On hold');
  await bill.getByRole('button', { name: /^Pay / }).click();
  await expect(bill).toContainText(/by ACH/);
});

test('detention that comes in late goes on a supplemental invoice, and too much is credited', async ({ browser }) => {
  const page = await as(browser, 'dana');
  await page.goto('/bill?tab=all');
  const grid = page.getByRole('grid');
  await expect(grid).toHaveAccessibleName(/Invoices, \d+ rows/);
  await grid.getByRole('row').nth(1).click();
  const invoice = page.getByRole('complementary', { name: 'invoice', exact: true });
  const number = (await invoice.getByRole('heading', { level: 2 }).innerText()).split(' ')[0];
  await invoice.getByRole('button', { name: 'Late charge' }).click();
  await invoice.getByLabel('Amount, USD').fill('150');
  await invoice.getByLabel('Description').fill('2 hours at the receiver');
  await invoice.getByLabel('Authorized by').fill('R. Dahl');
  await page.keyboard.press('Control+Enter');
  const form = page.getByRole('complementary', { name: 'new invoice' });
  await expect(form).toContainText('150.00');
  await form
    .getByRole('button', { name: /^Send|^Bill|^Issue|^Email/ })
    .first()
    .click();
  await expect(invoice.getByRole('heading', { level: 2 })).not.toContainText(number);
  await expect(invoice).toContainText('Detention, 2 hours at the receiver');

  await invoice.getByRole('button', { name: 'Credit memo' }).click();
  await invoice.getByLabel('Credit', { exact: false }).first().fill('75');
  await select(invoice, 'Reason', 'billing error');
  await select(invoice, 'Charge that was wrong', 'Detention');
  await invoice.getByLabel('Explanation').fill('one hour, not two');
  await page.keyboard.press('Control+Enter');
  await expect(invoice).toContainText(/Credit memo\s+CM-\d+/);
  await expect(invoice).toContainText('75.00');
});

test('a truck is bought with a loan, a payment made, and the truck sold', async ({ browser }) => {
  const page = await as(browser, 'dana');
  await page.goto('/ledger?tab=equipment');
  await page.getByRole('button', { name: 'Add equipment' }).click();
  for (const [label, value] of [
    ['Name', 'Truck 131'],
    ['Cost', '148000'],
    ['Salvage value', '40000'],
  ])
    await page.getByLabel(label, { exact: false }).first().fill(value);
  await page.getByLabel('With a loan').check();
  await page.getByLabel('Lender').fill('Clark Fork Bank');
  await page.getByLabel('Amount of the loan').fill('120000');
  await page.getByLabel('Interest, % a year').fill('8');
  await page.getByLabel('First payment').fill('Dec 1');
  await page.keyboard.press('Control+Enter');
  const row = page.getByRole('row').filter({ hasText: 'Truck 131' });
  await expect(row).toContainText('2,433.17');
  await row.getByRole('button', { name: 'Pay loan' }).click();
  await expect(page.getByText('800.00 interest, 1,633.17 principal')).toBeVisible();
  await page.keyboard.press('Control+Enter');
  await expect(row).toContainText('118,366.83');
  await row.getByRole('button', { name: 'Sell' }).click();
  await page.getByLabel('Received', { exact: false }).fill('146000');
  await page.keyboard.press('Control+Enter');
  await expect(row).toContainText('sold');
  await page.goto('/ledger?tab=cash');
  await expect(page.getByRole('row').filter({ hasText: 'Equipment bought, less sold' })).toBeVisible();
});
