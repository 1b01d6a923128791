import { expect, test } from '@playwright/test';
import { as, leave, message } from './business';

test.use({ actionTimeout: 20_000 });
test.afterEach(leave);

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
