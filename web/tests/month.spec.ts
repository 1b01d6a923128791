import { expect, type Locator } from '@playwright/test';
import { as, message, pick, select, test } from './business';

/** Uses a button or link by keyboard. */
const use = async (what: Locator) => {
  await what.focus();
  await what.press('Enter');
};

test('a bookkeeper closes a month: rebill, credit loss, payroll, accruals, and books that agree', async ({
  browser,
}) => {
  const page = await as(browser, 'marta');
  const invoices: {
    rows: { id: number; number: string; customer: string; paid: { amount: string }; total: { amount: string } }[];
  } = await page.request.get('/api/invoices?open=true&limit=200').then((r) => r.json());
  const untouched = invoices.rows.filter((i) => Number(i.paid.amount) === 0);

  // An invoice with a mistake is voided, and its loads are billed again.
  const wrong = untouched.at(-1)!;
  await page.goto(`/bill?tab=all&invoice=${wrong.id}`);
  const sheet = page.getByRole('complementary', { name: 'invoice', exact: true });
  await use(sheet.getByRole('button', { name: 'Void invoice' }));
  await expect(message(page, `${wrong.number} voided`)).toBeVisible();
  await use(sheet.getByRole('button', { name: 'Rebill these loads' }));
  const form = page.getByRole('complementary', { name: 'new invoice' });
  await expect(form).toContainText(wrong.customer);
  await use(form.getByRole('button', { name: /^Bill [\d,.]+/ }));
  await expect(message(page, `created for ${wrong.customer}`)).toBeVisible();
  const rebilled = await page.request.get('/api/invoices?limit=5').then((r) => r.json());
  expect(rebilled.rows.find((i: { customer: string }) => i.customer === wrong.customer).total.amount).toBe(
    wrong.total.amount,
  );

  // A customer will not pay: credit loss, all of it.
  const lost = untouched[0];
  await page.goto(`/bill?tab=all&invoice=${lost.id}`);
  await use(sheet.getByRole('button', { name: 'Write off', exact: true }));
  await select(page, 'Because of', 'credit loss');
  await sheet.getByLabel('Reason').fill('out of business');
  await page.keyboard.press('Control+Enter');
  await expect(message(page, `of ${lost.number}`)).toBeVisible();
  const after = await page.request.get(`/api/invoices/${lost.id}`).then((r) => r.json());
  expect([Number(after.invoice.open.amount), after.payments.at(-1).kind]).toEqual([0, 'uncollectible']);

  // Last week's payroll as a file for whoever withholds taxes.
  await page.goto('/pay');
  const link = page.getByRole('link', { name: 'Payroll (CSV)' });
  await link.focus();
  const csv = await page.request.get((await link.getAttribute('href'))!).then((r) => r.text());
  const [head, ...drivers] = csv.trim().split('\n');
  expect(head).toMatch(/Driver.*Wages.*Employer/i);
  expect(drivers.length).toBeGreaterThan(5);

  // October is closed: wages of its last days are accrued, and nothing more goes into it.
  await page.goto('/ledger?tab=periods');
  const close = page.getByRole('button', { name: 'Close through October 2026' });
  await use(close);
  await expect(message(page, 'closed through October 2026')).toBeVisible();
  const trial = await page.request.get('/api/ledger/trial-balance?upTo=2026-10-31').then((r) => r.text());
  expect(trial).toContain('Accrued wages');
  await page.goto('/ledger?tab=lines');
  await use(page.getByRole('button', { name: 'Journal entry' }));
  const entry = page.getByRole('complementary');
  await entry.getByLabel('Description').fill('telephone of October');
  await entry.getByLabel('Posting date').fill('oct 30');
  for (const [nth, account, side] of [
    [0, /^6300/, 'Debit'],
    [1, /^1000/, 'Credit'],
  ] as const) {
    await entry.getByLabel('Account').nth(nth).click();
    await page.getByRole('option', { name: account }).click();
    await entry.getByLabel(side).nth(nth).fill('88');
  }
  await page.keyboard.press('Control+Enter');
  await expect(entry.getByText('The books are closed for October 2026')).toBeVisible();

  // Aging and its accounts agree at the end of the month and today.
  await page.goto('/ledger?tab=aging');
  await expect(page.getByText('Agrees', { exact: true })).toHaveCount(2);
  for (const day of ['oct 31', 'nov 15']) {
    await page.getByLabel('As of the end of').fill(day);
    await page.getByLabel('As of the end of').press('Enter');
    await expect(page.getByText('Agrees', { exact: true })).toHaveCount(2);
  }
  await page.goto('/ledger?tab=periods');
  await use(page.getByRole('button', { name: 'Reopen' }).first());
  await page.getByLabel('Reason').fill('end of the test');
  await page.keyboard.press('Enter');
  await expect(message(page, 'October 2026 reopened')).toBeVisible();
});

test('opening balances are typed and read from a file, and account 3900 says what is missing', async ({ browser }) => {
  const page = await as(browser, 'dana');
  await page.goto('/ledger?tab=accounts');
  await use(page.getByRole('link', { name: 'enter opening balances' }));
  await page.getByLabel(/^Last day of the old books/).fill('oct 31');
  await use(page.getByRole('button', { name: 'Add invoice' }));
  await pick(page, 'Customer', 'Snowberry Creamery');
  const number = `OLD-${Date.now() % 100000}`;
  await page.getByLabel(/^Invoice number/).fill(number);
  await page.getByLabel(/^Date/).fill('oct 1');
  await page.getByLabel(/^Due/).fill('oct 31');
  await page.getByLabel(/^Open amount/).fill('1,500');
  await page.getByLabel(/^Open amount/).press('Tab');
  await expect(page.getByText(/Account 3900 will have .* credit left/)).toBeVisible();

  // Two bills from a spreadsheet, one of a vendor nobody knows.
  await page
    .locator('input[type=file]')
    .nth(1)
    .setInputFiles({
      name: 'bills.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from(
        `Vendor,Bill,Date,Due,Balance\nNobody At All,B-1,10/5/2026,11/4/2026,900.00\nNobody At All,B-2,10/5/2026,11/4/2026,twelve\n`,
      ),
    });
  await expect(page.getByText('“Nobody At All” was not found')).toHaveCount(2);
  await expect(page.getByText(/“twelve” is not an amount/)).toBeVisible();
  for (let n = 0; n < 2; n++) await use(page.getByRole('button', { name: /^Remove bill/ }).first());

  // The other side: what the old books had in the bank and in equity.
  await use(page.getByRole('button', { name: 'Add account' }));
  await select(page, /^Account/, /^3000/);
  await page.getByLabel('Credit', { exact: true }).fill('1500');
  await page.keyboard.press('Control+Enter');
  await expect(message(page, /Opening balances entered: 1 open item and 1 account balance/)).toBeVisible();

  // It is owed like any other invoice, and has no PDF of ours.
  await page.keyboard.press('/');
  await page.keyboard.type(number);
  await expect(page.getByText(number).first()).toBeVisible();
  await page.keyboard.press('Enter');
  const sheet = page.getByRole('complementary', { name: 'invoice', exact: true });
  await expect(sheet).toContainText('Opening balance: issued before the books began here.');
  await expect(sheet.getByText('Open PDF')).toHaveCount(0);
  await use(sheet.getByRole('button', { name: 'Void invoice' }));
  await expect(message(page, `${number} voided.`)).toBeVisible();
});
