import { expect, type Locator, type Page } from '@playwright/test';
import { as, message, test } from './business';

/** Hands that never leave the keyboard: what they press is counted. */
class Hands {
  pressed = 0;
  constructor(readonly page: Page) {}
  async press(...keys: string[]) {
    for (const key of keys) {
      this.pressed++;
      await this.page.keyboard.press(key);
    }
  }
  async type(text: string) {
    this.pressed += text.length;
    await this.page.keyboard.type(text);
  }
  /** Tabs until a thing has the focus. */
  async to(thing: Locator, most = 40) {
    for (let i = 0; i < most; i++) {
      if (await thing.evaluate((e) => e === document.activeElement).catch(() => false)) return;
      await this.press('Tab');
    }
    await expect(thing).toBeFocused();
  }
  tell(what: string) {
    console.log(`keys: ${what}: ${this.pressed}`);
    test.info().annotations.push({ type: 'keys', description: `${what}: ${this.pressed}` });
  }
}

const onePoint = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);

test('a known lane is booked, covered and its stop recorded by keyboard alone', async ({ browser }) => {
  const page = await as(browser, 'dana');
  const hands = new Hands(page);
  await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
  const began = Date.now();
  await hands.press('2');
  await expect(page.getByRole('heading', { name: 'Book', exact: true })).toBeVisible();
  await hands.press('n');
  const form = page.getByRole('form', { name: 'Book a load' });
  await expect(form.getByRole('combobox', { name: /^Customer/ })).toBeFocused();
  await hands.type('snowb');
  await expect(page.getByRole('option', { name: /^Snowberry/ })).toBeVisible();
  await hands.press('Enter');
  // The customer is known: what it ships is filled in, and the first thing that is missing has the focus.
  await expect(form.getByText(/filled in from/)).toBeVisible();
  await expect(form.getByLabel('Appointment').first()).toBeFocused();
  await hands.type('+3d 0800');
  await hands.press('Enter');
  await expect(form.getByRole('combobox', { name: /^Place/ }).nth(1)).toBeFocused();
  await hands.type('northgate');
  await expect(page.getByRole('option', { name: /^Northgate/ })).toBeVisible();
  await hands.press('Enter');
  await expect(form.getByLabel('Appointment').nth(1)).toBeFocused();
  await hands.type('+4d 0900');
  await hands.press('Enter');
  await expect(form.getByLabel('Amount, USD')).toBeFocused();
  await hands.type('1450');
  await hands.press('Control+Enter');
  await expect(message(page, /\d+ booked/)).toBeVisible();
  const made = /(\d+) booked/.exec(await message(page, /\d+ booked/).innerText())![1];
  hands.tell('book a known lane');
  expect(hands.pressed).toBeLessThan(60);
  expect(Date.now() - began).toBeLessThan(40_000);

  hands.pressed = 0;
  await expect(page.getByRole('button', { name: /^Cover( c)?$/ })).toBeVisible();
  await hands.press('c');
  const cover = page.getByRole('region', { name: 'Cover this load' });
  await expect(cover.getByRole('tab', { name: 'Carrier' })).toBeVisible();
  await hands.press('c');
  await expect(cover.getByRole('combobox', { name: /^Carrier/ })).toBeFocused();
  await hands.type('two');
  await expect(page.getByRole('option', { name: /^Two Forks/ })).toBeVisible();
  await hands.press('Enter');
  await expect(cover.getByLabel('Pay')).toBeFocused();
  await hands.type('1100');
  await expect(cover.getByRole('button', { name: 'Tender to Two Forks Trucking for $1,100' })).toBeEnabled();
  await hands.press('Enter');
  await expect(message(page, `${made} tendered to Two Forks`)).toBeVisible();
  hands.tell('cover it');
  expect(hands.pressed).toBeLessThanOrEqual(12);

  // The carrier calls: it takes the load.
  hands.pressed = 0;
  await page.getByRole('button', { name: 'Accepted by phone' }).focus();
  await hands.press('Enter');
  await expect(page.getByRole('textbox', { name: /^Accepted by/ })).toBeFocused();
  await hands.type('Jo');
  await hands.press('Enter');
  await expect(message(page, `accepted ${made}`)).toBeVisible();
  hands.tell('record the answer');
  expect(hands.pressed).toBeLessThanOrEqual(5);

  hands.pressed = 0;
  await hands.press('Escape', '/');
  await hands.type(`${made} at stop`);
  await expect(page.getByRole('option', { name: new RegExp(`${made}: at stop`) })).toBeVisible();
  await hands.press('Enter');
  await expect(message(page, `${made}: at stop`)).toBeVisible();
  hands.tell('record a stop');
  expect(hands.pressed).toBeLessThan(18);
});

test('a week is billed, a check over three invoices received, a driver’s settlement approved by keyboard alone', async ({
  browser,
}) => {
  const page = await as(browser, 'marta');
  // A delivered load that waits for its POD gets it, so that there is something to bill.
  const { token } = await page.request.get('/api/session').then((r) => r.json());
  const unbilled: { loadId: number; missing: string[]; held: string | null }[] = await page.request
    .get('/api/unbilled')
    .then((r) => r.json());
  const waiting = unbilled.find((u) => u.missing.join() === 'pod' && !u.held)!;
  const filed = await page.request.post(`/api/loads/${waiting.loadId}/documents?kind=pod&name=pod.png`, {
    data: onePoint,
    headers: { 'Content-Type': 'application/octet-stream', 'X-Lark-Token': token },
  });
  expect(filed.status()).toBe(200);
  const hands = new Hands(page);
  await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
  const rooms = await page.getByRole('navigation', { name: 'Rooms' }).getByRole('link').allInnerTexts();
  const key = (room: string) => String(rooms.filter((r) => r.trim()).findIndex((r) => r.startsWith(room)) + 1);
  await hands.press(key('Bill'));
  await expect(page.getByRole('button', { name: /^Bill \d+ for/ })).toBeVisible();
  await hands.press('Shift+B');
  const run = page.getByRole('complementary', { name: 'billing run' });
  await expect(run.getByRole('heading', { name: /^Billed \d+ of \d+/ })).toBeVisible({ timeout: 60_000 });
  await expect(run.getByText(/failed/)).toHaveCount(0);
  hands.tell('bill a week');
  expect(hands.pressed).toBeLessThan(5);

  // Somebody who owes on three invoices or more pays what is due on the first three.
  const open = await page.request.get('/api/invoices?open=true&limit=500').then((r) => r.json());
  const byCustomer = new Map<string, { open: { amount: string }; number: string; loads: string[] }[]>();
  for (const i of open.rows) byCustomer.set(i.customer, [...(byCustomer.get(i.customer) ?? []), i]);
  const [customer, invoices] = [...byCustomer].find(([, list]) => list.length >= 3)!;
  const check = invoices.slice(0, 3).reduce((a, i) => a + Math.round(Number(i.open.amount) * 100), 0) / 100;
  hands.pressed = 0;
  await hands.press('Escape', 'm');
  const money = page.getByRole('complementary', { name: 'payment' });
  await expect(money).toBeVisible();
  await expect(money.getByRole('combobox', { name: /^From/ })).toBeFocused();
  await hands.type(customer.slice(0, 9).toLowerCase());
  await expect(page.getByRole('option', { name: new RegExp(`^${customer}`) })).toBeVisible();
  await hands.press('Enter', 'Tab');
  await hands.type(check.toFixed(2));
  for (const invoice of invoices.slice(0, 3))
    await expect(money.getByLabel(`Applied to ${invoice.number}`)).not.toHaveValue('');
  await hands.press('Enter');
  await expect(message(page, `from ${customer} recorded`)).toBeVisible();
  hands.tell('receive a check over three invoices');
  expect(hands.pressed).toBeLessThan(90);

  hands.pressed = 0;
  await hands.press(key('Pay'));
  await expect(page.getByRole('heading', { name: 'Pay', exact: true })).toBeVisible();
  await expect(
    page
      .getByRole('region', { name: 'Driver settlements' })
      .or(page.getByRole('region', { name: 'Driver settlements' }))
      .getByRole('button')
      .first(),
  ).toBeVisible();
  await hands.press('j');
  const week = page.getByRole('complementary', { name: 'settlement' });
  await expect(week.getByRole('button', { name: /^Approve/ })).toBeVisible();
  await hands.press('a');
  await expect(message(page, /settlement approved for/)).toBeVisible();
  hands.tell('approve a driver’s week');
  expect(hands.pressed).toBeLessThan(60);
});

test('a document is filed, an entry posted and a pay rate set by keyboard alone', async ({ browser }) => {
  const page = await as(browser, 'dana');
  const hands = new Hands(page);
  const { token } = await page.request.get('/api/session').then((r) => r.json());
  const sent = await page.request.post('/api/documents/tray?name=scan-0071.png', {
    data: onePoint,
    headers: { 'Content-Type': 'application/octet-stream', 'X-Lark-Token': token },
  });
  expect(sent.status()).toBe(200);
  const loads = await page.request.get('/api/loads?view=moving&limit=50').then((r) => r.json());
  const load = loads.rows[0].load.number as string;
  await page.goto('/bill?tab=documents');
  await expect(page.getByRole('button', { name: /scan-0071/ })).toBeVisible();
  await hands.press('s', 't');
  await expect(page.getByRole('combobox', { name: /^Load/ })).toBeFocused();
  await hands.type(load);
  await expect(page.getByRole('option', { name: new RegExp(`^${load}`) })).toBeVisible();
  await hands.press('Enter', 'Enter');
  await expect(message(page, `filed to ${load} as Scale ticket`)).toBeVisible();
  hands.tell('file a document to a load');

  hands.pressed = 0;
  await page.goto('/ledger?tab=lines');
  await hands.to(page.getByRole('button', { name: 'Journal entry' }));
  await hands.press('Enter');
  const entry = page.getByRole('dialog').or(page.getByRole('complementary')).last();
  await hands.to(entry.getByLabel('Description'));
  await hands.type('yard lamp');
  const accounts = (await (await page.request.get('/api/accounts')).json()) as { code: string; name: string }[];
  const lines: [number, string, string][] = [
    [0, 'Debit', 'Repairs'],
    [1, 'Credit', 'equity'],
  ];
  for (const [n, side, account] of lines) {
    const select = entry.getByLabel('Account').nth(n);
    await hands.to(select);
    const code = accounts.find((a) => a.name.includes(account))!.code;
    await hands.type(code);
    await expect(select).toContainText(code);
    await hands.to(entry.getByLabel(side).nth(n));
    await hands.type('12.50');
  }
  await hands.press('Enter');
  await expect(message(page, /Entry \d+ posted/)).toBeVisible();
  hands.tell('post an entry by hand');

  hands.pressed = 0;
  await page.goto('/setup?tab=fleet');
  await hands.to(page.getByRole('link', { name: 'Anja Novak' }));
  await hands.press('Enter');
  const agreed = page.getByRole('complementary', { name: 'Anja Novak' });
  const type = agreed.getByLabel('Pay type').first();
  await hands.to(type, 80);
  await hands.press('ArrowDown');
  const hourly = page.getByRole('option', { name: 'per hour' });
  await expect(hourly).toBeVisible();
  for (let n = 0; n < 12 && (await hourly.getAttribute('data-highlighted')) === null; n++)
    await hands.press('ArrowDown');
  await hands.press('Enter');
  await expect(type).toContainText('per hour');
  await hands.to(agreed.getByLabel('USD').first());
  await hands.type('21.5');
  const agree = agreed.getByRole('button', { name: 'Set rate' });
  await hands.to(agree);
  await hands.press('Enter');
  await expect(agreed.getByText('21.50').first()).toBeVisible();
  hands.tell('set a pay rate');
});

test('arrows stay inside the list that has the focus, and Alt with a number goes to a section', async ({ browser }) => {
  const page = await as(browser, 'ines');
  await page.goto('/cover');
  const cover = page.getByRole('region', { name: 'Cover this load' });
  await expect(page.locator('[data-row]').first()).toBeVisible();
  await page.keyboard.press('ArrowDown');
  const drivers = cover.locator('button[aria-pressed]');
  await expect(drivers.nth(1)).toBeVisible();
  const shown = page.url();
  await drivers.first().focus();
  await page.keyboard.press('ArrowDown');
  await expect(drivers.nth(1)).toBeFocused();
  await page.keyboard.press('ArrowUp');
  await expect(drivers.first()).toBeFocused();
  expect(page.url()).toBe(shown);

  const id: number = await page.request
    .get('/api/loads?view=moving&limit=1')
    .then((r) => r.json())
    .then((p) => p.rows[0].load.id);
  await page.goto(`/load/${id}`);
  await expect(page.getByRole('heading', { name: 'Stops' })).toBeVisible();
  await expect(page.getByText('Next stop')).toBeVisible();
  await page.keyboard.press('Alt+1');
  await expect(page.getByRole('heading', { name: 'Stops' })).toBeFocused();
  await page.keyboard.press('Alt+3');
  await expect(page.getByRole('heading', { name: 'Assignment' })).toBeFocused();
});

test('a new customer with a new place is booked, a POD attached and billed, a bill over the agreed amount approved', async ({
  browser,
}) => {
  const page = await as(browser, 'dana');
  const hands = new Hands(page);
  const stamp = String(Date.now() % 100_000);
  await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
  await hands.press('2');
  await expect(page.getByRole('heading', { name: 'Book', exact: true })).toBeVisible();
  await hands.press('n');
  const form = page.getByRole('form', { name: 'Book a load' });
  await expect(form.getByRole('combobox', { name: /^Customer/ })).toBeFocused();
  await hands.type(`Oats ${stamp}`);
  await expect(page.getByRole('option', { name: /^New customer/ })).toBeVisible();
  await hands.press('Enter');
  const customer = page.getByRole('group', { name: 'New company' });
  await expect(customer.getByRole('textbox', { name: /^Name/ })).toBeFocused();
  await hands.press('Enter');
  await expect(message(page, `Oats ${stamp} added to the address book`)).toBeVisible();
  // What is missing next has the focus: the equipment.
  await expect(form.getByLabel('Equipment')).toBeFocused();
  await hands.type('v');
  await expect(form.getByLabel('Equipment')).toHaveText('van');
  const place = (n: number) => form.getByRole('combobox', { name: /^Place/ }).nth(n);
  await hands.to(place(0));
  await hands.type(`Mill ${stamp}`);
  await expect(page.getByRole('option', { name: /^New place/ })).toBeVisible();
  await hands.press('Enter');
  const making = page.getByRole('group', { name: 'New place' });
  await expect(making.getByRole('combobox', { name: /^Town/ })).toBeFocused();
  await hands.type('spokane');
  await expect(page.getByRole('option', { name: /^Spokane WA/ })).toBeVisible();
  await hands.press('Enter');
  await expect(message(page, `Mill ${stamp} in Spokane`)).toBeVisible();
  await expect(form.getByLabel('Appointment').first()).toBeFocused();
  await hands.type('+3d 8a');
  await hands.press('Enter');
  await expect(place(1)).toBeFocused();
  await hands.type('northg');
  await expect(page.getByRole('option', { name: /^Northgate/ })).toBeVisible();
  await hands.press('Enter');
  await expect(form.getByLabel('Appointment').nth(1)).toBeFocused();
  await hands.type('+4d 9a');
  await hands.press('Enter');
  await expect(form.getByLabel('Description').first()).toBeFocused();
  await hands.type('oats');
  await hands.press('Enter');
  await expect(form.getByLabel('Amount, USD')).toBeFocused();
  await hands.type('1450');
  await hands.press('Enter');
  await expect(message(page, /\d+ booked/)).toBeVisible();
  hands.tell('book a new customer with a new place');
  expect(hands.pressed).toBeLessThanOrEqual(100);

  await page.goto('/bill');
  const waiting = page.getByRole('button').filter({ hasText: 'POD missing' }).first();
  await waiting.click();
  await expect(page.getByRole('button', { name: /^Attach POD/ })).toBeVisible();
  hands.pressed = 0;
  const chooser = page.waitForEvent('filechooser');
  // The browser is asked for the file only once it reports choosers.
  await page.waitForTimeout(300);
  await hands.press('p');
  await (await chooser).setFiles({ name: 'pod.png', mimeType: 'image/png', buffer: onePoint });
  await expect(
    page
      .getByRole('complementary', { name: 'load' })
      .getByRole('button', { name: /^Bill \$/ })
      .first(),
  ).toBeVisible();
  await hands.press('b');
  const invoice = page.getByRole('complementary', { name: 'new invoice' });
  await expect(invoice.getByLabel('To')).toBeFocused();
  await hands.press('Enter');
  await expect(message(page, /Invoice \S+ for/)).toBeVisible();
  hands.tell('attach a POD and bill');
  expect(hands.pressed).toBeLessThanOrEqual(5);

  // A carrier billed $40 more than agreed, for a lumper.
  const legs: { loadNumber: string; agreed: { amount: string } }[] = await page.request
    .get('/api/bills/expected')
    .then((r) => r.json());
  const leg = legs[0];
  const billed = Number(leg.agreed.amount) + 40;
  await page.goto('/pay?tab=bills');
  await page.getByRole('button', { name: new RegExp(leg.loadNumber) }).click();
  const enter = page.getByRole('complementary', { name: 'new bill' });
  await enter.getByLabel('Bill number').fill(`K-${stamp}`);
  await enter.getByLabel('Amount billed').fill(String(billed));
  await enter.getByLabel('Amount billed').press('Enter');
  const bill = page.getByRole('complementary', { name: 'bill', exact: true });
  await expect(bill.getByText('Over', { exact: true })).toBeVisible();
  hands.pressed = 0;
  await hands.press('a');
  await expect(bill.getByLabel('Amount approved')).toBeFocused();
  await hands.type(String(Math.floor(billed)));
  await hands.press('Enter');
  await expect(bill.getByLabel('Reason')).toBeFocused();
  await hands.type('lumper');
  await hands.press('Enter');
  await expect(message(page, /approved for/)).toBeVisible();
  hands.tell('approve a bill over the agreed amount');
  expect(hands.pressed).toBeLessThanOrEqual(15);
});
