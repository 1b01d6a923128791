import { expect } from '@playwright/test';
import { as, message, pick, select, test } from './business';
import { get } from './plan';

interface Row {
  load: {
    id: number;
    number: string;
    reference: string | null;
    state: string;
    customerId: number;
    tripId: number | null;
  };
}

test('an LTL load is priced by class, and its rate table is kept in Setup', async ({ browser }) => {
  const page = await as(browser, 'dana');
  await page.goto('/setup?tab=freight');
  const tables = page.getByRole('region', { name: 'LTL rates' });
  await expect(tables.getByText('58 % discount, minimum 185.00, 21.5 % fuel surcharge')).toBeVisible();
  await tables.getByRole('button', { name: 'Show rates' }).first().click();
  await expect(tables.getByRole('row', { name: /^250 mi 77\.5 44\.89/ })).toBeVisible();

  // A new table from a file; what is wrong in the file is said, and nothing typed is lost.
  await tables.getByRole('button', { name: 'Add a rate table' }).click();
  const form = page.getByRole('form', { name: 'New rate table' });
  await form.getByLabel('Name').fill('Prairie LTL');
  const file = (text: string) => ({ name: 'rates.csv', mimeType: 'text/csv', buffer: Buffer.from(text) });
  await form.getByLabel(/^Upload rates/).setInputFiles(file('miles,class,0,500\n900,71,40,30\n'));
  await expect(form.getByText('Row 2: “71” is not a freight class.')).toBeVisible();
  await form.getByLabel(/^Upload rates/).setInputFiles(file('miles,class,0,500\n900,70,40,30\n900,92.5,50,38\n'));
  await expect(form.getByText('2 rows of rates read, 2 weight breaks')).toBeVisible();
  await form.getByRole('button', { name: 'Save rate table' }).click();
  await expect(message(page, 'Rate table Prairie LTL saved.')).toBeVisible();
  await tables.getByRole('button', { name: 'Remove Prairie LTL' }).click();
  await message(page, 'Rate table Prairie LTL removed.').getByRole('button', { name: 'Undo' }).click();
  await expect(tables.getByText('Prairie LTL')).toBeVisible();

  // Two pallets of 1,200 lb are class 92.5 by density: 1,200 lb at 38.00.
  await page.goto('/book?new');
  const load = page.getByRole('form', { name: 'Book a load' });
  await pick(page, 'Customer', 'Palisade Millwork');
  await select(load, /^Equipment/, 'van');
  await pick(page, 'Place', 'Palisade Millwork', 0);
  await pick(page, 'Place', 'Ballard Cross-Dock', 1);
  await load.getByLabel('Description').first().fill('doors');
  await load.getByLabel('Pallets').fill('2');
  await load.getByLabel('Weight, lb').fill('1,200');
  // The customer's last load may have shown the sizes already.
  const sizes = load.getByText('Pieces, dimensions, hazmat');
  if (await sizes.isVisible()) await sizes.click();
  await load.getByLabel(/^Length/).fill('');
  await select(load, /^Rate basis/, 'by class');
  await select(load, /^Rate table/, 'Prairie LTL');
  await expect(load.getByText('Freight line 1 has no freight class')).toBeVisible();
  await load.getByLabel(/^Length/).fill('48');
  await load.getByLabel(/^Width/).fill('40');
  await load.getByLabel(/^Height/).fill('48');
  await expect(load.getByText('class 92.5: 1,200 lb at 38.00')).toBeVisible();
  await load.getByRole('button', { name: 'Save as draft' }).click();
  await expect(message(page, 'saved as a draft.')).toBeVisible();
});

test('a load is divided by quantity, undone, and combined with another of its customer', async ({ browser }) => {
  const page = await as(browser, 'ines');
  const { rows } = await get<{ rows: Row[] }>(page, 'loads?view=open&limit=500');
  const booked = rows.map((r) => r.load).filter((l) => l.state === 'booked' && l.customerId);
  const pair = booked.filter((l) => booked.filter((o) => o.customerId === l.customerId).length > 1);
  const load = pair[0];
  await page.goto(`/load/${load.id}`);
  await page.getByRole('button', { name: 'Divide' }).click();
  const divide = page.getByRole('form', { name: `Divide ${load.number}` });
  const [first, second] = [1, 2].map((n) => divide.locator('input[inputmode="decimal"]').nth(n - 1));
  const all = Number((await first.inputValue()).replace(/,/g, ''));
  await first.fill(String(all - 1));
  await expect(divide.getByText('1 more to enter')).toBeVisible();
  await second.fill('2');
  await expect(divide.getByText('1 too many')).toBeVisible();
  await divide.getByRole('button', { name: 'Divide into 2 loads' }).click();
  await expect(divide.getByRole('alert')).toContainText('to divide, and the new loads have');
  await second.fill('1');
  await divide.getByRole('button', { name: 'Divide into 2 loads' }).click();
  const done = message(page, `${load.number} divided into`);
  await expect(done).toContainText(new RegExp(`into ${load.number}-\\d+ and ${load.number}-\\d+`));
  await expect(page.getByRole('link', { name: `${load.number}-` }).first()).toBeVisible();
  await done.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Divide' })).toBeVisible();

  await page.getByRole('button', { name: 'Combine' }).click();
  const combine = page.getByRole('form', { name: `Combine ${load.number}` });
  await combine.getByRole('checkbox').first().check();
  await combine.getByRole('button', { name: 'Combine 2 loads' }).click();
  const made = message(page, 'combined into');
  await expect(made).toContainText(load.number);
  await expect(page.getByText('Made from')).toBeVisible();
  await made.getByRole('button', { name: 'Undo' }).click();
  await page.goto(`/load/${load.id}`);
  await expect(page.getByRole('button', { name: 'Combine' })).toBeVisible();
});

test('a trip is copied to another week without a driver, and one that is over is closed and archived', async ({
  browser,
}) => {
  const page = await as(browser, 'ines');
  const { rows } = await get<{ rows: Row[] }>(page, 'loads?view=moving&limit=500');
  const trip = rows.find((r) => r.load.reference?.startsWith('LTL'))!.load.tripId!;
  await page.goto(`/trip/${trip}`);
  await page.getByRole('button', { name: 'Copy trip' }).click();
  const copy = page.getByRole('group', { name: 'Copy trip' });
  await copy.getByLabel('Begins on').fill('');
  await copy.getByRole('button', { name: /^Copy trip/ }).click();
  await expect(copy.getByText('Choose the day on which the copy begins.')).toBeVisible();
  await copy.getByLabel('Begins on').fill('Dec 9');
  await copy.getByLabel(/^Assign to/).uncheck();
  await copy.getByRole('button', { name: /^Copy trip/ }).click();
  const made = message(page, /copied: .* booked/);
  await expect(made).toBeVisible();
  await made.getByRole('button', { name: 'Undo' }).click();
  await expect(message(page, 'Undone.')).toBeVisible();

  const all = await get<{ rows: Row[] }>(page, 'loads?view=all&limit=500');
  const over = all.rows.find((r) => ['billed', 'closed'].includes(r.load.state) && r.load.tripId)!.load.tripId!;
  await page.goto(`/trip/${over}`);
  await page.getByRole('button', { name: 'Close trip' }).click();
  await expect(page.getByText(/closed .* by Ines/)).toBeVisible();
  await page.getByRole('button', { name: 'Archive trip' }).click();
  await expect(page.getByRole('button', { name: 'Take out of the archive' })).toBeVisible();
  await message(page, 'archived').getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Reopen trip' }).click();
  await expect(page.getByRole('button', { name: 'Close trip' })).toBeVisible();
});

test('dispatch writes to a driver, who answers on the phone', async ({ browser }) => {
  const phone = await as(browser, 'moses', true);
  const { tripId } = (await get<{ tripId: number; state: string }[]>(phone, 'mine/loads')).find((l) =>
    ['covered', 'rolling'].includes(l.state),
  )!;
  const page = await as(browser, 'ines');
  await page.goto(`/trip/${tripId}`);
  await page.getByLabel(/^Message to/).fill('Use dock 4.');
  await page.keyboard.press('Enter');
  const desk = page.getByRole('list', { name: 'Messages' });
  await expect(desk.getByText('Use dock 4.')).toBeVisible();

  const mine = phone.getByRole('region', { name: 'Messages with dispatch' });
  await expect(mine.getByText('Use dock 4.')).toBeVisible();
  await mine.getByLabel('Message to dispatch').fill('Dock 4 is closed.');
  await mine.getByRole('button', { name: 'Send' }).click();
  await expect(desk.getByText('Dock 4 is closed.')).toBeVisible();
  await expect(desk.getByText(/Ines Calder, .* · read/)).toBeVisible();
});
