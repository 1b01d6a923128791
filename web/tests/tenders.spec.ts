import { expect, type Page } from '@playwright/test';
import { as, book, message, pick, test, watch } from './business';

const panel = (page: Page) => page.getByRole('region', { name: 'Cover this load' });

/** Opens the cover panel of the load that was just booked, on its carriers, and names one at a rate. */
async function offer(page: Page, pay: string) {
  await pick(page, 'Carrier', 'Two Forks');
  await panel(page).getByLabel('Pay').fill(pay);
}

/** The link in the newest email to a carrier whose subject begins so. */
async function link(page: Page, subject: string) {
  await page.goto('/simulator');
  const mail = page.getByRole('button', { name: new RegExp(subject) });
  await expect(mail.first()).toBeVisible({ timeout: 60_000 });
  await mail.first().click();
  return (await page.getByRole('link', { name: 'Open the link as the carrier' }).getAttribute('href'))!;
}

test('a tender is declined on its link, then accepted by phone, dispatched, and its pay revised', async ({
  browser,
}) => {
  const page = await as(browser, 'dana');
  const made = await book(page, '+11d 0600', '+11d 1900', '1400');
  await page.getByRole('button', { name: /^Cover( c)?$/ }).click();
  await panel(page).getByRole('tab', { name: 'Carrier' }).click();
  await offer(page, '1000');
  await panel(page).getByRole('button', { name: 'Tender to Two Forks Trucking for $1,000' }).click();
  await expect(message(page, `${made} tendered to Two Forks`)).toBeVisible();
  await expect(page.getByText(/answer by/).first()).toBeVisible();

  const theirs = await link(page, `Rate confirmation for load ${made}`);
  const carrier = await (await browser.newContext()).newPage();
  watch(carrier);
  await carrier.goto(theirs);
  await expect(carrier.getByText('Please answer by')).toBeVisible();
  await carrier.getByLabel('Your name').fill('Jo Ferro');
  await carrier.getByRole('button', { name: 'Decline', exact: true }).click();
  await carrier.getByLabel('Reason').fill('truck broke down');
  await carrier.getByRole('button', { name: `Decline load ${made}` }).click();
  await expect(carrier.getByText('This tender was declined')).toBeVisible();

  // Back on Cover, it is open again; the same carrier finds another truck and takes it by phone.
  const load = (await find(page, made)).id;
  await page.goto(`/cover?load=${load}`);
  await expect(page.getByText(/declined \d+, Jo Ferro: truck broke down/)).toBeVisible();
  await panel(page).getByRole('tab', { name: 'Carrier' }).click();
  await offer(page, '1050');
  await panel(page).getByLabel('Accepted by phone, by').fill('Jo Ferro');
  await panel(page).getByRole('button', { name: 'Cover with Two Forks Trucking for $1,050' }).click();
  await expect(message(page, `${made} assigned to Two Forks`)).toBeVisible();

  await page.goto(`/load/${load}`);
  await expect(page.getByText('rate confirmation not signed yet')).toBeVisible();
  await page.getByRole('button', { name: 'Enter driver and truck' }).click();
  await page.keyboard.press('Enter');
  await expect(page.getByText('required', { exact: false }).first()).toBeVisible();
  await page.getByRole('textbox', { name: /^Driver[^’]*$/ }).fill('Ray Ostrander');
  await page.getByRole('textbox', { name: /phone/ }).fill('509-555-0142');
  await page.getByRole('textbox', { name: /^Truck/ }).fill('118');
  await page.keyboard.press('Control+Enter');
  await expect(message(page, /sends Ray Ostrander/)).toBeVisible();
  await expect(page.getByText(/Ray Ostrander, 509-555-0142, truck 118/).first()).toBeVisible();

  await page.getByRole('button', { name: 'Change carrier pay' }).click();
  await page.getByRole('button', { name: 'Add charge' }).click();
  await page
    .getByRole('textbox', { name: /^Amount/ })
    .nth(1)
    .fill('85');
  await page.getByRole('textbox', { name: 'Authorized by' }).fill('R. Dahl');
  await page.getByRole('button', { name: 'Save 1,135.00' }).click();
  await expect(message(page, /from \$1,050.00 to \$1,135.00: lumper \$85.00 added/)).toBeVisible();
  await carrier.goto(await link(page, `Revised rate confirmation for load ${made}`));
  await expect(carrier.getByRole('heading', { name: /revision 2/ })).toBeVisible();
  await carrier.getByLabel('Your name').fill('Jo Ferro');
  await carrier.getByRole('button', { name: `Sign load ${made} for $1,135` }).click();
  await expect(carrier.getByText('Accepted, signed Jo Ferro')).toBeVisible();
});

test('a truck ordered and not used is charged, billed and owed to the carrier', async ({ browser }) => {
  const page = await as(browser, 'dana');
  const made = await book(page, '+12d 0600', '+12d 1900', '1400');
  await page.getByRole('button', { name: /^Cover( c)?$/ }).click();
  await panel(page).getByRole('tab', { name: 'Carrier' }).click();
  await offer(page, '1000');
  await panel(page).getByLabel('Accepted by phone, by').fill('Jo Ferro');
  await panel(page)
    .getByRole('button', { name: /^Cover with/ })
    .click();
  await expect(message(page, `${made} assigned to Two Forks`)).toBeVisible();
  const { id } = await find(page, made);

  await page.goto(`/load/${id}`);
  await page.getByRole('button', { name: 'Cancel load' }).click();
  await page.getByLabel('Charge customer, USD').fill('250');
  // The load changes meanwhile and is read again: what was typed stays.
  const { token } = await (await page.request.get('/api/session')).json();
  await page.request.post(`/api/loads/${id}/reports`, {
    data: { kind: 'note', note: 'shipper asks for a call back' },
    headers: { 'X-Lark-Token': token },
  });
  await expect(page.getByText('shipper asks for a call back').first()).toBeVisible();
  await expect(page.getByLabel('Charge customer, USD')).toHaveValue('250');
  await page.getByLabel('Pay carrier, USD').fill('200');
  await page.getByRole('button', { name: `Cancel load ${made}` }).click();
  await expect(page.getByText('The reason is required')).toBeVisible();
  await page.getByLabel('Reason for canceling').fill('plant closed');
  await page.keyboard.press('Control+Enter');
  await expect(message(page, `${made} canceled`)).toBeVisible();
  await expect(page.getByText('Truck ordered not used').first()).toBeVisible();

  await page.goto(`/bill?load=${id}`);
  await page.getByRole('button', { name: 'Bill $250' }).click();
  await page.getByRole('complementary', { name: 'new invoice' }).getByRole('button', { name: 'Bill 250.00' }).click();
  await expect(message(page, /Invoice \S+ for \$250/)).toBeVisible();
  await page.goto('/pay?tab=bills');
  await expect(page.getByRole('button', { name: new RegExp(made) })).toContainText('200.00');
});

/** A load by its number. */
async function find(page: Page, number: string): Promise<{ id: number }> {
  const rows = (await (await page.request.get('/api/loads?view=all&limit=50')).json()).rows as {
    load: { id: number; number: string };
  }[];
  return rows.map((r) => r.load).find((l) => l.number === number)!;
}
