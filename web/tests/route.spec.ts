import { expect, test } from '@playwright/test';
import { as, book, faults, message, pick, watch } from './business';

const pod = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8z8BQDwAEhQGAhKmMIQAAAABJRU5ErkJggg==',
  'base64',
);

test.afterEach(() => expect(faults.splice(0)).toEqual([]));

test('from a call to cash with our driver, who works on his phone', async ({ browser }) => {
  const page = await as(browser, 'dana');
  const number = await book(page, '-', 'x', '1100').catch(() => null);
  expect(number, 'a load with times that are none cannot be booked').toBeNull();
  await expect(page.getByText('Write a time such as 1430').first()).toBeVisible();

  // Far enough ahead that our driver is free, near enough that it can be worked now.
  const made = await book(page, '+9d 0600', '+9d 1900', '1,100.50');
  await page.getByRole('button', { name: 'Cover it' }).click();
  const cover = page.getByRole('region', { name: 'Cover this load' });
  await cover.getByRole('button', { name: 'Show all 24' }).click();
  await cover
    .getByRole('button', { name: /Percy Begaye/ })
    .first()
    .click();
  await cover.getByRole('button', { name: /^Give it to/ }).click();
  await expect(message(page, `${made} given to`)).toBeVisible();

  // Undo takes it back; then it is given for good.
  await page
    .locator('[data-sonner-toast]')
    .filter({ hasText: `${made} given to` })
    .getByRole('button', { name: 'Undo' })
    .click();
  await expect(page.getByText('Taken back.')).toBeVisible();
  await expect(cover.getByRole('tab', { name: 'Our drivers' })).toBeVisible();
  await cover.getByRole('button', { name: 'Show all 24' }).click();
  await cover.getByRole('button', { name: /Percy Begaye/ }).click();
  // A trailer that stands in the yard today, so that the load can be worked at once.
  const trailer = cover.getByLabel('Trailer');
  await trailer.selectOption({ index: (await trailer.locator('option').count()) - 1 });
  await cover.getByRole('button', { name: /^Give it to Percy Begaye, truck \d+, trailer \d+/ }).click();
  await expect(page.getByText(/given to Percy Begaye, trip/)).toBeVisible();

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
    const step = phone.getByRole('button', { name: /^(I take this trip|I am here|Loaded and leaving|Delivered)/ });
    const label = await step.innerText();
    await step.click();
    await expect(phone.getByRole('button', { name: label, exact: true })).toHaveCount(0);
  }
  await expect(mine).toHaveText('Snowberry Creamery');
  await phone.getByRole('button', { name: /^I take this trip, / }).click();
  await phone.getByRole('button', { name: 'I am here' }).click();
  await phone.getByRole('button', { name: 'Loaded and leaving' }).click();
  await expect(mine).toHaveText('Northgate Cold Storage');

  // The desk sees it by itself.
  await page.goto('/roll');
  const row = page.getByRole('button', { name: new RegExp(made) });
  await expect(row).toBeVisible();
  await row.click();
  const sheet = page.getByRole('complementary', { name: 'load' });
  await expect(sheet.getByText('rolling', { exact: true })).toBeVisible();
  await phone.getByRole('button', { name: 'I am here' }).click();
  await expect(sheet.getByText(/at Spokane at/)).toBeVisible();
  await phone.getByLabel('Receiver’s name').fill('R. Dahl');
  await phone.getByRole('button', { name: /^Delivered, signed R. Dahl/ }).click();
  await expect(sheet.getByText('delivered', { exact: true })).toBeVisible();
  await expect(sheet.getByText('Not ready to bill')).toBeVisible();
  await phone.getByLabel(`POD of ${made}`).setInputFiles({ name: 'pod.png', mimeType: 'image/png', buffer: pod });
  await expect(phone.getByText(`POD for ${made} is in`)).toBeVisible();

  // Ready: billed, mailed with its paper, paid in two parts.
  await sheet.getByRole('button', { name: /^Bill \$1,100.50 to Snowberry Creamery/ }).click();
  await expect(page.getByText(/Invoice I-\d+ over \$1,100.50 goes to pay@snowberrycreamery.example/)).toBeVisible();
  await sheet.getByRole('link', { name: /^I-\d+$/ }).click();
  const invoice = page.getByRole('complementary', { name: 'invoice' });
  await expect(invoice.getByText('1,100.50').first()).toBeVisible();
  const pdf = await page.request.get((await invoice.getByRole('link', { name: /PDF/ }).getAttribute('href'))!);
  expect(pdf.headers()['content-type']).toBe('application/pdf');
  const id = /invoice=(\d+)/.exec(page.url())![1];
  await invoice.getByRole('button', { name: 'Money came in' }).click();
  const money = page.getByRole('complementary', { name: 'money in' });
  await expect(money.getByLabel('From')).toHaveValue('Snowberry Creamery');
  const name = await page.request.get(`/api/invoices/${id}`).then((r) => r.json());
  await money.getByLabel('Amount', { exact: false }).first().fill('600');
  for (const field of await money.getByLabel(/^To I-/).all()) await field.fill('');
  await money.getByLabel(`To ${name.invoice.number}`).fill('600');
  await money.getByRole('button', { name: /^Take in \$600 from Snowberry Creamery/ }).click();
  await expect(page.getByText('$600 from Snowberry Creamery taken in.')).toBeVisible();
  await page.goto(`/bill?invoice=${id}`);
  await expect(page.getByRole('complementary', { name: 'invoice' }).getByText('500.50').first()).toBeVisible();

  // His pay grows with it.
  await phone.getByRole('button', { name: /My pay/ }).click();
  await expect(phone.getByText(made).first()).toBeVisible();

  // And the books balance.
  await page.goto('/ledger');
  await expect(
    page
      .getByRole('row', { name: /All, up to/ })
      .getByRole('cell')
      .last(),
  ).toHaveText('0.00');
});

test('from a call to cash with a carrier, who accepts on a link', async ({ browser }) => {
  const page = await as(browser, 'dana');
  const made = await book(page, '+10d 0600', '+10d 1900', '1300');
  await page.getByRole('button', { name: 'Cover it' }).click();
  const cover = page.getByRole('region', { name: 'Cover this load' });
  await cover.getByRole('tab', { name: 'A carrier' }).click();
  await pick(page, 'Carrier', 'Medicine Bow');
  await expect(cover.getByText('no active operating authority')).toBeVisible();
  await expect(cover.getByRole('button', { name: /^Cover with/ })).toBeDisabled();
  await pick(page, 'Carrier', 'Two Forks');
  await cover.getByLabel('Pay').fill('975');
  await expect(cover.getByText('325.00')).toBeVisible();
  await expect(cover.getByText('25.0 %')).toBeVisible();
  await cover.getByRole('button', { name: 'Cover with Two Forks Trucking for $975' }).click();
  await expect(page.getByText(/rate confirmation goes to dispatch@twoforkstrucking.example/)).toBeVisible();

  await page.goto('/simulator');
  const mail = page.getByRole('button', { name: new RegExp(`Rate confirmation for load ${made}`) });
  await expect(mail).toBeVisible({ timeout: 60_000 });
  await mail.click();
  const link = await page.getByRole('link', { name: 'Follow the link, as the carrier' }).getAttribute('href');
  const outside = await (await browser.newContext()).newPage();
  watch(outside);
  await outside.goto(link!);
  await expect(outside.getByRole('heading', { name: `Load ${made} for Two Forks Trucking` })).toBeVisible();
  await outside.getByLabel('Your name').fill('Jo Ferro');
  await outside.getByRole('button', { name: `Accept load ${made} for $975` }).click();
  await expect(outside.getByText('Accepted, signed Jo Ferro')).toBeVisible();

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
    await expect(page.locator('[data-sonner-toast]').filter({ hasText: `${made}: ${done}` })).toBeVisible();
  }

  // Its bill is over what was agreed: seen, approved for what was agreed, paid.
  await page.goto('/pay?tab=bills');
  await page.getByRole('button', { name: new RegExp(made) }).click();
  const enter = page.getByRole('complementary', { name: 'bill to enter' });
  await enter.getByLabel('The bill’s own number').fill(`TF-${made}`);
  await enter.getByLabel('Amount billed').fill('1,115');
  await expect(enter.getByText('140.00 over what was agreed')).toBeVisible();
  await enter.getByRole('button', { name: 'Enter the bill over $1,115' }).click();
  const bill = page.getByRole('complementary', { name: 'bill', exact: true });
  await expect(bill.getByLabel('Amount approved')).toHaveValue('975.00');
  await bill.getByRole('button', { name: 'Approve 975.00' }).click();
  // What one approves another pays.
  await expect(bill.getByText('You approved it; somebody else pays it')).toBeVisible();
  const marta = await as(browser, 'marta');
  await marta.goto(page.url().replace(/^https?:\/\/[^/]+/, ''));
  const hers = marta.getByRole('complementary', { name: 'bill', exact: true });
  await hers.getByRole('button', { name: 'Pay Two Forks Trucking 975.00' }).click();
  await expect(hers.getByText(/by ACH/)).toBeVisible();
  await hers.getByRole('link', { name: /All entries of Two Forks/ }).click();
  await expect(marta.getByRole('row', { name: /Paid bill/ }).first()).toBeVisible();
});

test('a new customer and a new place are made while the load is booked, and a draft waits', async ({ browser }) => {
  const oats = `Thistle Oats ${Date.now()}`;
  const mill = `Thistle Mill ${Date.now()}`;
  const page = await as(browser, 'bo');
  await page.goto('/book?new');
  const form = page.getByRole('form', { name: 'Book a load' });
  await form.getByRole('button', { name: /^Book it/ }).click();
  await expect(form.getByText('The customer is missing: choose who orders the load.')).toBeVisible();
  await form.getByRole('combobox', { name: /^Customer/ }).fill(oats);
  await page.getByRole('option', { name: /New customer/ }).click();
  await page.getByRole('button', { name: `Make ${oats}` }).click();
  await expect(form.getByRole('combobox', { name: /^Customer/ })).toHaveValue(oats);
  await form
    .getByRole('combobox', { name: /^Place/ })
    .first()
    .fill(mill);
  await page.getByRole('option', { name: /New place/ }).click();
  const place = page.getByRole('group', { name: 'A new place' });
  await place.getByRole('combobox', { name: /^Town/ }).fill('Spokane');
  await page.getByRole('option', { name: /^Spokane WA/ }).click();
  await expect(place.getByText('Pacific time')).toBeVisible();
  await place.getByRole('button', { name: `Make ${mill}` }).click();
  await expect(form.getByText('Spokane WA')).toBeVisible();
  await form.getByRole('button', { name: 'Keep as a draft' }).click();
  await expect(message(page, /kept as a draft/)).toBeVisible();
  await expect(page.getByRole('button', { name: new RegExp(oats) })).toBeVisible();
});
