import { expect } from '@playwright/test';
import { as, message, select, test } from './business';

test.use({ actionTimeout: 20_000 });

const onePoint = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);

test('the customer gets the email that was written, even after leaving it half-written', async ({ browser }) => {
  const page = await as(browser, 'marta');
  const { token } = await page.request.get('/api/session').then((r) => r.json());
  const headers = { 'Content-Type': 'application/octet-stream', 'X-Lark-Token': token };
  const unbilled: { loadId: number; number: string; missing: string[]; held: string | null }[] = await page.request
    .get('/api/unbilled')
    .then((r) => r.json());
  // The last that waits for its POD gets it, with a scale ticket beside.
  const load = unbilled.filter((u) => u.missing.join() === 'pod' && !u.held).at(-1)!;
  for (const kind of ['pod', 'scale_ticket'])
    expect(
      (
        await page.request.post(`/api/loads/${load.loadId}/documents?kind=${kind}&name=${kind}.png`, {
          data: onePoint,
          headers,
        })
      ).status(),
    ).toBe(200);

  await page.goto('/bill');
  await page.getByRole('button', { name: new RegExp(load.number) }).click();
  await page.keyboard.press('x');
  await page.keyboard.press('b');
  const message1 = page.getByLabel('Message');
  await expect(message1).not.toHaveValue('');
  await message1.fill('Two pallets were reweighed at your dock: see the scale ticket.');
  await page.getByLabel('Subject').fill('Your invoice, with the scale ticket');
  await page.getByLabel(/Scale ticket/).check();

  // Reloaded half-way: it is offered again.
  await page.reload();
  await page.getByRole('button', { name: new RegExp(load.number) }).click();
  await page.keyboard.press('x');
  await page.keyboard.press('b');
  await page.getByRole('button', { name: 'Continue' }).click();
  await expect(message1).toHaveValue(/reweighed/);
  await page.getByRole('button', { name: /^Bill [\d,]+\.\d\d$/ }).click();
  await expect(message(page, /Invoice I-\d+ .* created/)).toBeVisible();

  const sheet = await page.request.get(`/api/loads/${load.loadId}`).then((r) => r.json());
  const mail = sheet.emails.find((m: { subject: string }) => m.subject === 'Your invoice, with the scale ticket');
  expect(mail, 'the email has the subject that was typed').toBeTruthy();
  const sent = await page.request.get(`/api/emails/${mail.id}`).then((r) => r.text());
  expect(sent).toContain('Two pallets were reweighed at your dock');
  expect(sent).toMatch(/scale/i);
});

test('a short pay says what becomes of the rest, an open rest is written off, and aging agrees on every day', async ({
  browser,
}) => {
  const page = await as(browser, 'marta');
  const open: {
    rows: { id: number; number: string; customer: string; customerId: number; open: { amount: string } }[];
  } = await page.request.get('/api/invoices?open=true&limit=1').then((r) => r.json());
  const invoice = open.rows[0];
  const whole = Number(invoice.open.amount);
  await page.goto(`/bill?tab=all&invoice=${invoice.id}`);
  const sheet = page.getByRole('complementary');
  await expect(sheet.getByText(invoice.number).first()).toBeVisible();

  // A part is written off without a payment, by keys alone.
  await sheet.getByRole('button', { name: 'Write off', exact: true }).click();
  await sheet.getByLabel('Write off', { exact: false }).first().fill('25');
  await select(page, 'Because of', 'concession');
  await sheet.getByLabel('Reason').fill('driver waited at the wrong gate');
  await page.keyboard.press('Enter');
  await expect(message(page, '$25 of')).toBeVisible();
  await expect(sheet.getByText('driver waited at the wrong gate').first()).toBeVisible();

  // A check $40 short: a freight claim.
  await sheet.getByRole('button', { name: 'Record payment' }).click();
  await page
    .getByLabel('Amount', { exact: false })
    .first()
    .fill(String(whole - 65));
  await page.getByLabel(`Applied to ${invoice.number}`).fill(String(whole - 65));
  await expect(page.getByText('40.00 short')).toBeVisible();
  await page.getByLabel(`Short pay reason for ${invoice.number}`).fill('two cases short');
  await select(page, `The rest of ${invoice.number}`, 'freight claim');
  await page.keyboard.press('Control+Enter');
  await expect(message(page, /Payment of .* recorded/)).toBeVisible();
  const after = await page.request.get(`/api/invoices/${invoice.id}`).then((r) => r.json());
  expect(Number(after.invoice.open.amount)).toBe(0);
  expect(after.payments.map((p: { kind: string }) => p.kind).sort()).toEqual(['claim', 'concession']);

  // The ledger on any day: aging equals its accounts.
  await page.goto('/ledger?tab=aging');
  await expect(page.getByText('Agrees', { exact: true })).toHaveCount(2);
  await page.getByLabel('As of the end of').fill('oct 31');
  await page.getByLabel('As of the end of').blur();
  await expect(page.getByText('Agrees', { exact: true })).toHaveCount(2);
});
