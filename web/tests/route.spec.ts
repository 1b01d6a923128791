import { expect } from '@playwright/test';
import { as, book, message, pick, sendDriver, test, watch } from './business';

const pod = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8z8BQDwAEhQGAhKmMIQAAAABJRU5ErkJggg==',
  'base64',
);

test('from a call to cash with our driver, who works on a phone', async ({ browser }) => {
  const page = await as(browser, 'dana');
  const number = await book(page, '-', 'x', '1100').catch(() => null);
  expect(number, 'a load with times that are none cannot be booked').toBeNull();
  await expect(page.getByText('Enter a time such as 1430').first()).toBeVisible();

  // Far enough ahead that our driver is free, near enough that it can be worked now.
  const made = await book(page, '+9d 0600', '+9d 1900', '1,100.50');
  await page.getByRole('button', { name: /^Cover( c)?$/ }).click();
  const cover = page.getByRole('region', { name: 'Cover this load' });
  await cover.getByRole('button', { name: 'Show all 22' }).click();
  await cover
    .getByRole('button', { name: /Percy Begaye/ })
    .first()
    .click();
  await cover.getByRole('button', { name: /^Assign to/ }).click();
  await expect(message(page, `${made} assigned to`)).toBeVisible();

  // Undo takes it back; then it is given for good.
  await page
    .locator('[data-sonner-toast]')
    .filter({ hasText: `${made} assigned to` })
    .getByRole('button', { name: 'Undo' })
    .click();
  await expect(page.getByText('Undone.')).toBeVisible();
  // The panel may be the one from before the undo, with all drivers shown, or a new one.
  const percy = cover.getByRole('button', { name: /^Percy Begaye/ });
  await expect(async () => {
    if (!(await percy.isVisible())) await cover.getByRole('button', { name: 'Show all 22' }).click({ timeout: 1000 });
    await percy.click({ timeout: 1000 });
    await expect(percy).toHaveAttribute('aria-pressed', 'true', { timeout: 1000 });
  }).toPass({ timeout: 30_000 });
  // A trailer that stands in the yard today, so that the load can be worked at once.
  const trailer = cover.getByLabel('Trailer');
  await trailer.click();
  await page.getByRole('option').last().click();
  await cover.getByRole('button', { name: /^Assign to Percy Begaye, truck \d+, trailer \d+/ }).click();
  await expect(page.getByText(/assigned to Percy Begaye, trip/)).toBeVisible();

  const phone = await as(browser, 'percy', true);
  await expect(phone.getByText(made).first()).toBeVisible();
  await expect(phone.getByText('1,100')).toHaveCount(0);
  const mine = phone.getByRole('heading', { level: 1 });
  // Whatever is before this load on her phone is worked off first.
  for (
    let i = 0;
    i < 12 &&
    !(await phone
      .getByText(`load ${made}`)
      .first()
      .isVisible()
      .catch(() => false));
    i++
  ) {
    const step = phone.getByRole('button', { name: /^(Accept trip|Arrived|Loaded, departing|Delivered)/ });
    const label = await step.innerText();
    await step.click();
    await expect(phone.getByRole('button', { name: label, exact: true })).toHaveCount(0);
  }
  await expect(mine).toHaveText('Snowberry Creamery');
  await phone.getByRole('button', { name: /^Accept trip, / }).click();
  await phone.getByRole('button', { name: 'Arrived' }).click();
  await phone.getByRole('button', { name: 'Loaded, departing' }).click();
  await expect(mine).toHaveText('Northgate Cold Storage');

  // The desk sees it by itself.
  await page.goto('/roll');
  const row = page.getByRole('button', { name: new RegExp(made) });
  await expect(row).toBeVisible();
  await row.click();
  const sheet = page.getByRole('complementary', { name: 'load' });
  await expect(sheet.getByText('rolling', { exact: true })).toBeVisible();
  await phone.getByRole('button', { name: 'Arrived' }).click();
  await expect(sheet.getByText(/at Spokane at/)).toBeVisible();
  await phone.getByLabel('Receiver name').fill('R. Dahl');
  await phone.getByRole('button', { name: /^Delivered, signed R. Dahl/ }).click();
  await expect(sheet.getByText('delivered', { exact: true })).toBeVisible();
  await expect(sheet.getByText('Not ready to bill')).toBeVisible();
  await phone.getByLabel(`POD for ${made}`).setInputFiles({ name: 'pod.png', mimeType: 'image/png', buffer: pod });
  await expect(phone.getByText(`POD for ${made} received`)).toBeVisible();

  // Ready: billed, mailed with its document, paid in two parts.
  await sheet.getByRole('button', { name: /^Bill \$1,100.50 to Snowberry Creamery/ }).click();
  await expect(page.getByText(/Invoice I-\d+ for \$1,100.50 sent to pay@snowberrycreamery.example/)).toBeVisible();
  await sheet.getByRole('link', { name: /^I-\d+$/ }).click();
  const invoice = page.getByRole('complementary', { name: 'invoice' });
  await expect(invoice.getByText('1,100.50').first()).toBeVisible();
  const pdf = await page.request.get((await invoice.getByRole('link', { name: /PDF/ }).getAttribute('href'))!);
  expect(pdf.headers()['content-type']).toBe('application/pdf');
  const id = /invoice=(\d+)/.exec(page.url())![1];
  await invoice.getByRole('button', { name: 'Record payment' }).click();
  const money = page.getByRole('complementary', { name: 'payment' });
  await expect(money.getByLabel('From')).toHaveValue('Snowberry Creamery');
  const name = await page.request.get(`/api/invoices/${id}`).then((r) => r.json());
  await money.getByLabel('Amount', { exact: false }).first().fill('600');
  for (const field of await money.getByLabel(/^Applied to I-/).all()) await field.fill('');
  await money.getByLabel(`Applied to ${name.invoice.number}`).fill('600');
  await money.getByRole('button', { name: /^Record \$600 from Snowberry Creamery/ }).click();
  await expect(page.getByText('Payment of $600 from Snowberry Creamery recorded.')).toBeVisible();
  await page.goto(`/bill?invoice=${id}`);
  await expect(page.getByRole('complementary', { name: 'invoice' }).getByText('500.50').first()).toBeVisible();

  // Their pay grows with it.
  await phone.getByRole('button', { name: /My pay/ }).click();
  await expect(phone.getByText(made).first()).toBeVisible();

  // And the books balance.
  await page.goto('/ledger');
  await expect(
    page
      .getByRole('row', { name: /Total through/ })
      .getByRole('cell')
      .last(),
  ).toHaveText('0.00');
});

test('from a call to cash with a carrier, who accepts on a link', async ({ browser }) => {
  const page = await as(browser, 'dana');
  const made = await book(page, '+10d 0600', '+10d 1900', '1300');
  await page.getByRole('button', { name: /^Cover( c)?$/ }).click();
  const cover = page.getByRole('region', { name: 'Cover this load' });
  await cover.getByRole('tab', { name: 'Carrier' }).click();
  await pick(page, 'Carrier', 'Medicine Bow');
  await expect(cover.getByText('no active operating authority')).toBeVisible();
  await expect(cover.getByRole('button', { name: /^Tender to/ })).toBeDisabled();
  await pick(page, 'Carrier', 'Two Forks');
  await cover.getByLabel('Pay').fill('975');
  await expect(cover.getByText('325.00')).toBeVisible();
  await expect(cover.getByText('25.0 %')).toBeVisible();
  await cover.getByRole('button', { name: 'Tender to Two Forks Trucking for $975' }).click();
  await expect(page.getByText(/rate confirmation sent to dispatch@twoforkstrucking.example/)).toBeVisible();

  await page.goto('/simulator');
  const mail = page.getByRole('button', { name: new RegExp(`Rate confirmation for load ${made}`) });
  await expect(mail).toBeVisible({ timeout: 60_000 });
  await mail.click();
  const link = await page.getByRole('link', { name: 'Open the link as the carrier' }).getAttribute('href');
  const outside = await (await browser.newContext()).newPage();
  watch(outside);
  await outside.goto(link!);
  await expect(outside.getByRole('heading', { name: `Load ${made} for Two Forks Trucking` })).toBeVisible();
  await outside.getByLabel('Your name').fill('Jo Ferro');
  await outside.getByRole('button', { name: `Accept load ${made} for $975` }).click();
  await expect(outside.getByText('Accepted, signed Jo Ferro')).toBeVisible();
  await sendDriver(outside);

  // On the phone with the carrier: the line, without leaving where one is.
  await page.goto('/today');
  await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
  for (const [words, done] of [
    [`${made} left 5 min ago`, 'loaded and left'],
    [`${made} at stop 3 min ago`, 'at stop'],
    [`${made} delivered, signed K. Osei`, 'delivered'],
  ]) {
    await page.keyboard.press('/');
    await page.keyboard.type(words);
    const action = page.getByRole('option', { name: new RegExp(`${made}: ${done}`) });
    await expect(action).toBeVisible();
    await expect(page.getByText(`${made}: ${done}`, { exact: false })).toHaveCount(1);
    await page.keyboard.press('Enter');
    if (done === 'at stop') {
      // Three minutes after leaving, no truck is there: it is recorded only when one insists.
      await expect(action.getByText(/is not possible before .* Press Enter again to record it anyway\./)).toBeVisible();
      await expect(page.locator('[data-sonner-toast]').filter({ hasText: `${made}: ${done}` })).toHaveCount(0);
      await page.keyboard.press('Enter');
    }
    await expect(page.locator('[data-sonner-toast]').filter({ hasText: `${made}: ${done}` })).toBeVisible();
  }

  // Its bill is over what was agreed: seen, approved for what was agreed, paid.
  await page.goto('/pay?tab=bills');
  await page.getByRole('button', { name: new RegExp(made) }).click();
  const enter = page.getByRole('complementary', { name: 'new bill' });
  await enter.getByLabel('Bill number').fill(`TF-${made}`);
  await enter.getByLabel('Amount billed').fill('1,115');
  await expect(enter.getByText('140.00 over the agreed amount')).toBeVisible();
  await enter.getByRole('button', { name: 'Enter bill for $1,115' }).click();
  const bill = page.getByRole('complementary', { name: 'bill', exact: true });
  await expect(bill.getByLabel('Amount approved')).toHaveValue('975.00');
  // The rate confirmation asks for the POD.
  await expect(bill.getByText('Attach the POD to load')).toBeVisible();
  const back = page.url();
  await bill.getByRole('link', { name: made, exact: true }).click();
  await page
    .getByLabel('Choose a file to add as POD')
    .setInputFiles({ name: 'pod.png', mimeType: 'image/png', buffer: pod });
  await expect(page.getByText('pod.png').first()).toBeVisible();
  await page.goto(back);
  await bill.getByRole('button', { name: 'Approve 975.00' }).click();
  // What one approves another pays.
  await expect(bill.getByText('You approved this bill; another person must pay it')).toBeVisible();
  const marta = await as(browser, 'marta');
  await marta.goto(page.url().replace(/^https?:\/\/[^/]+/, ''));
  const hers = marta.getByRole('complementary', { name: 'bill', exact: true });
  await hers.getByRole('button', { name: 'Pay Two Forks Trucking 975.00' }).click();
  await expect(hers.getByText(/by ACH/)).toBeVisible();
  await hers.getByRole('link', { name: /All ledger entries for Two Forks/ }).click();
  await expect(marta.getByRole('row', { name: /Paid Two Forks Trucking, bill/ }).first()).toBeVisible();
});

test('a new customer and a new place are made while the load is booked, and a draft waits', async ({ browser }) => {
  const oats = `Thistle Oats ${Date.now()}`;
  const mill = `Thistle Mill ${Date.now()}`;
  const page = await as(browser, 'bo');
  await page.goto('/book?new');
  const form = page.getByRole('form', { name: 'Book a load' });
  await form.getByRole('button', { name: /^Book load/ }).click();
  await expect(form.getByText('Customer is required: choose who is paying for the load.')).toBeVisible();
  await form.getByRole('combobox', { name: /^Customer/ }).fill(oats);
  await page.getByRole('option', { name: /New customer/ }).click();
  await page.getByRole('button', { name: `Create ${oats}` }).click();
  await expect(form.getByRole('combobox', { name: /^Customer/ })).toHaveValue(oats);
  await form
    .getByRole('combobox', { name: /^Place/ })
    .first()
    .fill(mill);
  await page.getByRole('option', { name: /New place/ }).click();
  const place = page.getByRole('group', { name: 'New place' });
  await place.getByRole('combobox', { name: /^Town/ }).fill('Spokane');
  await page.getByRole('option', { name: /^Spokane WA/ }).click();
  await expect(place.getByText('Pacific time')).toBeVisible();
  await place.getByRole('button', { name: `Create ${mill}` }).click();
  await expect(form.getByText('Spokane WA')).toBeVisible();
  await form.getByRole('button', { name: 'Save as draft' }).click();
  await expect(message(page, /saved as a draft/)).toBeVisible();
  await expect(page.getByRole('button', { name: new RegExp(oats) })).toBeVisible();
});
