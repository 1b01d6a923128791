import { expect, type Browser, type Page } from '@playwright/test';
import { message, select, test, watch } from './business';

/** The link that the server printed when it started without a company. */
const link = process.env.LARK_FIRST_RUN ?? '';
const origin = link && new URL(link).origin;
const password = 'nine gravel cottonwood';
const pod = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8z8BQDwAEhQGAhKmMIQAAAABJRU5ErkJggg==',
  'base64',
);

test.use({ actionTimeout: 10_000 });
test.describe.configure({ mode: 'serial' });

async function open(browser: Browser, path: string): Promise<Page> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, timezoneId: 'America/Denver' });
  const page = await context.newPage();
  watch(page);
  await page.goto(path.startsWith('http') ? path : origin + path);
  return page;
}
async function setPassword(page: Page) {
  await page.getByLabel('New password').fill(password);
  await page.getByLabel('Repeat the password').fill(password);
}
async function signIn(page: Page, login?: string) {
  if (login) await page.getByLabel('Username').fill(login);
  await page.getByLabel('Password').fill(password);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.waitForURL((url) => !url.pathname.startsWith('/signin'));
}
/** Invites a user and returns the link. */
async function invite(owner: Page, name: string, login: string, role: string): Promise<string> {
  await owner.goto(`${origin}/setup?tab=users`);
  await owner.getByRole('button', { name: 'Invite user' }).click();
  const sheet = owner.getByRole('complementary', { name: 'user' });
  await sheet.getByRole('textbox', { name: /^Name/ }).fill(name);
  await sheet.getByLabel('Username').fill(login);
  await sheet.getByLabel('Email').fill(`${login}@sixmile.example`);
  await select(sheet, 'Role', role);
  await sheet.getByRole('button', { name: 'Send invitation' }).click();
  const shown = sheet.getByText(/\/welcome\/[0-9a-f]{48}/);
  await expect(shown).toBeVisible();
  return (await shown.innerText()).trim();
}

test('a company is set up from the printed link, and the link works once', async ({ browser }) => {
  expect(link, 'LARK_FIRST_RUN names the link').toMatch(/^http.*\/welcome\/[0-9a-f]{48}$/);
  const page = await open(browser, link);
  await expect(page.getByRole('heading', { name: 'Set up your company' })).toBeVisible();
  await page.getByRole('button', { name: 'Create the company' }).click();
  await expect(page.getByText('Company name is required.')).toBeVisible();
  await page.getByLabel('Company name').fill('Sixmile Freight');
  await page.getByLabel('Address').fill('12 Mill Road, Missoula MT 59801');
  await page.getByLabel('Phone').fill('406-555-0101');
  await page.getByLabel('Email for customers and carriers').fill('freight@sixmile.example');
  await page.getByLabel('USDOT number').fill('0000200');
  await page.getByLabel('MC number').fill('MC-000200');
  await expect(page.getByLabel('Time zone')).toContainText('Denver');
  await page.getByLabel('Logo file').setInputFiles({ name: 'logo.png', mimeType: 'image/png', buffer: pod });
  await expect(page.getByRole('img', { name: 'Company logo' })).toBeVisible();
  await page.getByLabel('Your name').fill('Pat Lund');
  await page.getByLabel('Username').fill('pat');
  await page.getByLabel('Your email').fill('pat@sixmile.example');
  await page.getByLabel('New password').fill('sixmilefreight1');
  await page.getByLabel('Repeat the password').fill('sixmilefreight1');
  await page.getByRole('button', { name: 'Create the company' }).click();
  await expect(page.getByText(/mostly your own or the company's name/)).toBeVisible();
  await setPassword(page);
  await page.getByRole('button', { name: 'Create the company' }).click();
  await page.waitForURL(/\/signin\?as=pat$/);
  await signIn(page);
  await expect(page.getByText('Nothing needs attention.')).toBeVisible();
  // Nothing of the demo is here.
  await expect(page.getByRole('link', { name: 'Simulator' })).toHaveCount(0);
  const again = await open(browser, link);
  await expect(again.getByText('This link no longer works')).toBeVisible();
});

test('three users take a load from a new customer to its paid invoice', async ({ browser }) => {
  test.setTimeout(180_000);
  const owner = await open(browser, '/signin');
  await signIn(owner, 'pat');
  const [forInes, forMarta] = [
    await invite(owner, 'Ines Calder', 'ines', 'Dispatcher'),
    await invite(owner, 'Marta Quill', 'marta', 'Bookkeeper'),
  ];

  // The owner enters a driver, a truck and a trailer.
  for (const [kind, fields] of Object.entries({
    driver: { Name: 'Tomasz Brandt' },
    truck: { Number: '101' },
    trailer: { Number: '301' },
  })) {
    await owner.goto(`${origin}/setup?tab=fleet&new=${kind}`);
    const form = owner.getByRole('form', { name: `New ${kind}` });
    for (const [label, value] of Object.entries(fields)) await form.getByLabel(label).first().fill(value);
    await form.getByRole('button', { name: /^Add/ }).click();
    await expect(owner.getByRole('link', { name: Object.values(fields)[0], exact: true })).toBeVisible();
  }

  // The dispatcher accepts the invitation and books, covers and tracks a load.
  const ines = await open(browser, forInes);
  await expect(ines.getByRole('heading', { name: 'Welcome to Sixmile Freight' })).toBeVisible();
  await setPassword(ines);
  await ines.getByRole('button', { name: 'Set password' }).click();
  await ines.waitForURL(/\/signin\?as=ines$/);
  await signIn(ines);
  await ines.goto(`${origin}/book?new`);
  const form = ines.getByRole('form', { name: 'Book a load' });
  await form.getByRole('combobox', { name: /^Customer/ }).fill('Thistle Oats');
  await ines.getByRole('option', { name: /New customer/ }).click();
  await ines.getByLabel('Email').first().fill('pay@thistleoats.example');
  await ines.getByRole('button', { name: 'Create Thistle Oats' }).click();
  for (const [nth, name, town] of [
    [0, 'Thistle Mill', 'Missoula'],
    [1, 'Lolo Feed', 'Lolo'],
  ] as const) {
    await form
      .getByRole('combobox', { name: /^Place/ })
      .nth(nth)
      .fill(name);
    await ines.getByRole('option', { name: /New place/ }).click();
    const place = ines.getByRole('group', { name: 'New place' });
    await place.getByRole('combobox', { name: /^Town/ }).fill(town);
    await ines.getByRole('option', { name: new RegExp(`^${town} MT`) }).click();
    await place.getByRole('button', { name: `Create ${name}` }).click();
    await expect(form.getByText(`${town} MT`)).toBeVisible();
  }
  await select(form, 'Equipment', 'van');
  await form.getByLabel('Appointment').nth(0).fill('today 0700');
  await form.getByLabel('Appointment').nth(1).fill('today 0900');
  await form.getByLabel('Description').first().fill('oats');
  await form.getByLabel('Amount, USD').fill('480');
  await form.getByRole('button', { name: /Book load for/ }).click();
  await expect(message(ines, /2001 booked/)).toBeVisible();
  await ines.getByRole('button', { name: /^Cover( c)?$/ }).click();
  const cover = ines.getByRole('region', { name: 'Cover this load' });
  await cover.getByRole('button', { name: /Tomasz Brandt/ }).click();
  await cover.getByRole('button', { name: /^Assign to Tomasz Brandt/ }).click();
  await expect(message(ines, '2001 assigned to Tomasz Brandt')).toBeVisible();
  for (const [said, shown] of [
    ['2001 at stop 0700', '2001: at stop'],
    ['2001 left 0740', '2001: loaded and left'],
    ['2001 delivered 0820 signed Ann Dahl', '2001: delivered'],
  ]) {
    await ines.keyboard.press('Escape');
    await ines.keyboard.press('/');
    await ines.keyboard.type(said);
    await expect(ines.getByRole('option', { name: shown }).first()).toBeVisible();
    await ines.keyboard.press('Enter');
    await expect(message(ines, shown)).toBeVisible();
  }
  await ines.goto(`${origin}/roll`);
  await expect(ines.getByRole('heading', { name: 'Roll' })).toBeVisible();
  // A dispatcher has neither bills nor the ledger.
  await expect(ines.getByRole('link', { name: 'Ledger' })).toHaveCount(0);

  // The bookkeeper files the POD, invoices, and records the check.
  const marta = await open(browser, forMarta);
  await setPassword(marta);
  await marta.getByRole('button', { name: 'Set password' }).click();
  await marta.waitForURL(/\/signin\?as=marta$/);
  await signIn(marta);
  await marta.goto(`${origin}/bill`);
  await marta.getByRole('button', { name: /2001/ }).first().click();
  const sheet = marta.getByRole('complementary', { name: 'load' });
  await sheet
    .getByLabel('Choose a file to add as POD')
    .setInputFiles({ name: 'pod.png', mimeType: 'image/png', buffer: pod });
  await sheet.getByRole('button', { name: /^Bill \$480 to Thistle Oats/ }).click();
  await expect(marta.getByText(/Invoice I-1101 for \$480 sent to pay@thistleoats.example/)).toBeVisible();
  await sheet.getByRole('link', { name: 'I-1101' }).click();
  const invoice = marta.getByRole('complementary', { name: 'invoice' });
  const pdf = await marta.request.get(origin + (await invoice.getByRole('link', { name: /PDF/ }).getAttribute('href')));
  expect(pdf.headers()['content-type']).toBe('application/pdf');
  await invoice.getByRole('button', { name: 'Record payment' }).click();
  const money = marta.getByRole('complementary', { name: 'payment' });
  await money.getByLabel('Amount', { exact: false }).first().fill('480');
  await money.getByRole('button', { name: /^Record \$480 from Thistle Oats/ }).click();
  await expect(marta.getByText('Payment of $480 from Thistle Oats recorded.')).toBeVisible();
  await marta.goto(`${origin}/ledger`);
  await expect(
    marta
      .getByRole('row', { name: /Total through/ })
      .getByRole('cell')
      .last(),
  ).toHaveText('0.00');
});

test('a role is edited, a second factor set up, an API token made and revoked, and all of it is in the audit log', async ({
  browser,
}) => {
  const owner = await open(browser, '/signin');
  await signIn(owner, 'pat');
  await owner.goto(`${origin}/setup?tab=roles`);
  await owner.getByRole('button', { name: 'New role' }).click();
  await owner.getByRole('textbox', { name: /^Name/ }).fill('Yard');
  await owner.getByLabel('See loads, trips and the map').check();
  await owner.getByLabel('Record stops and exceptions, plan runs').check();
  await owner.getByRole('button', { name: 'Create role' }).click();
  await expect(message(owner, 'Role Yard saved.')).toBeVisible();
  await owner.goto(`${origin}/setup?tab=users`);
  await owner.getByRole('button', { name: /Ines Calder/ }).click();
  const sheet = owner.getByRole('complementary', { name: 'user' });
  await expect(sheet.getByRole('textbox', { name: /^Name/ })).toHaveValue('Ines Calder');
  await select(sheet, 'Role', 'Yard');
  await sheet.getByRole('button', { name: 'Save' }).click();
  await expect(message(owner, 'Ines Calder saved.')).toBeVisible();

  // Whoever only moves freight sees the load without a dollar on it.
  const ines = await open(browser, '/signin');
  await signIn(ines, 'ines');
  await ines.goto(`${origin}/load/1`);
  await expect(ines.getByText('Lolo Feed').first()).toBeVisible();
  expect(await ines.getByRole('main').innerText()).not.toMatch(/480/);

  await owner.goto(`${origin}/preferences?tab=tokens`);
  await owner.getByRole('button', { name: 'New API token' }).click();
  await owner.getByRole('textbox', { name: /^Name/ }).fill('Wall board');
  await owner.getByLabel('See loads, trips and the map').check();
  await owner.getByRole('button', { name: 'Create token' }).click();
  const token = await owner.getByText(/^lark_[0-9a-f]{48}$/).innerText();
  const headers = { Authorization: `Bearer ${token}` };
  const anyone = await browser.newContext();
  expect((await anyone.request.get(`${origin}/api/loads`, { headers })).status()).toBe(200);
  expect((await anyone.request.get(`${origin}/api/users`, { headers })).status()).toBe(403);
  await owner.getByRole('button', { name: 'Revoke' }).click();
  await expect(message(owner, 'API token Wall board revoked.')).toBeVisible();
  expect((await anyone.request.get(`${origin}/api/loads`, { headers })).status()).toBe(401);

  await owner.goto(`${origin}/preferences?tab=account`);
  await owner.getByRole('button', { name: 'Set up' }).click();
  await expect(owner.getByRole('img', { name: /QR code/ })).toBeVisible();
  await owner.getByLabel('Code that the app shows').fill('123');
  await owner.getByRole('button', { name: 'Turn on' }).click();
  await expect(owner.getByText(/This code is wrong/)).toBeVisible();

  await owner.goto(`${origin}/setup?tab=audit`);
  for (const said of [
    'Role Yard was added',
    'role was changed from Dispatcher to Yard',
    'created API token Wall board',
  ])
    await expect(owner.getByText(said).first()).toBeVisible();
});
