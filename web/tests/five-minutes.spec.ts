import { readFileSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { as, message, sendDriver, test } from './business';

/** One numbered step of the README: what is to be typed, and what is named on the page, in order. Each must be used. */
class Step {
  #codes: string[];
  #names: string[];
  constructor(readonly text: string) {
    this.#codes = [...text.matchAll(/`([^`]+)`/g)].map((m) => m[1]);
    this.#names = [...text.matchAll(/\*\*([^*]+)\*\*/g)].map((m) => m[1]);
  }
  /** The next thing to type. */
  code() {
    expect(this.#codes, `something is to be typed in: ${this.text}`).not.toEqual([]);
    return this.#codes.shift()!;
  }
  /** The next name of something on the page. */
  name() {
    expect(this.#names, `something is named in: ${this.text}`).not.toEqual([]);
    return this.#names.shift()!;
  }
  done() {
    expect({ typed: this.#codes, named: this.#names }, `all is done of: ${this.text}`).toEqual({
      typed: [],
      named: [],
    });
  }
}

const readme = readFileSync(new URL('../../README.md', import.meta.url), 'utf8');
const section = /## Five minutes\n([\s\S]*?)\nThere is more to try/.exec(readme)![1];
const steps = section
  .split(/\n(?=\d+\. )/)
  .slice(1)
  .map((text) => new Step(text.replace(/\s+/g, ' ')));

test.use({ actionTimeout: 20_000 });

const room = (page: Page, name: string) =>
  page.getByRole('navigation', { name: 'Rooms' }).getByRole('link', { name: new RegExp(`^${name}`) });

test('the README’s five minutes, step by step', async ({ browser }) => {
  test.setTimeout(240_000);
  expect(steps).toHaveLength(11);
  const [signIn, line, bookIt, coverIt, simulator, phoneStep, bill, pay, map, runs, ledger] = steps;

  // 1: sign in, Today, the first load.
  const [login, password] = [signIn.code(), signIn.code()];
  expect(password).toBe('steady-lark');
  const page = await as(browser, login);
  await expect(page.getByRole('heading', { name: signIn.name() })).toBeVisible();
  const first = page.locator('main li').first();
  await first.getByRole('button', { name: signIn.name() }).click();
  const sheet = page.getByRole('complementary', { name: 'load' });
  await expect(sheet.getByRole('status').first()).toContainText(/No update from|\d min late|\d h( \d\d)? late/);
  signIn.done();

  // 2: what a caller says.
  const opens = line.code();
  await page.keyboard.press('Escape');
  for (let i = 0; i < 3; i++) {
    const words = line.code();
    await page.keyboard.press(opens);
    await page.keyboard.type(words);
    const option = page.getByRole('option').first();
    await expect(option).toBeVisible();
    await expect(option).toContainText(['at stop', 'new time', 'delivered'][i]);
    await page.keyboard.press('Enter');
    const toast = page.locator('[data-sonner-toast]').filter({ has: page.getByRole('button', { name: 'Undo' }) });
    await expect(toast.first()).toBeVisible();
    if (i === 0) {
      await toast.first().getByRole('button', { name: line.name() }).click();
      await expect(page.getByText('Undone.')).toBeVisible();
    }
  }
  line.done();

  // 3: book a load.
  await page.keyboard.press('Escape');
  await page.keyboard.press(bookIt.code());
  await expect(page.getByRole('heading', { name: bookIt.name(), exact: true })).toBeVisible();
  await page.keyboard.press(bookIt.code());
  const form = page.getByRole('form', { name: 'Book a load' });
  const enter = async (text: string, option?: RegExp) => {
    await page.keyboard.type(text);
    if (option) await expect(page.getByRole('option', { name: option })).toBeVisible();
    await page.keyboard.press('Enter');
  };
  await expect(form.getByRole('combobox', { name: /^Customer/ })).toBeFocused();
  await enter(bookIt.code(), /^Snowberry/);
  await expect(form.getByText(/filled in from/)).toBeVisible();
  await expect(form.getByLabel('Appointment').first()).toBeFocused();
  await enter(bookIt.code());
  await expect(form.getByRole('combobox', { name: /^Place/ }).nth(1)).toBeFocused();
  await enter(bookIt.code(), /^Northgate/);
  await expect(form.getByLabel('Appointment').nth(1)).toBeFocused();
  await enter(bookIt.code());
  await expect(form.getByLabel('Amount, USD')).toBeFocused();
  await page.keyboard.type(bookIt.code());
  await page.keyboard.press('Control+Enter');
  const booked = message(page, /\d+ booked/);
  await expect(booked).toBeVisible();
  const made = /(\d+) booked/.exec(await booked.innerText())![1];
  bookIt.done();

  // 4: cover it with a carrier.
  await expect(page.getByRole('button', { name: /^Cover( c)?$/ })).toBeVisible();
  await page.keyboard.press(coverIt.code());
  const cover = page.getByRole('region', { name: `${coverIt.name()} this load` });
  await expect(cover.getByRole('button', { name: /truck|mi empty|free/ }).first()).toBeVisible();
  await page.keyboard.press(coverIt.code());
  const carrier = cover.getByRole('combobox', { name: /^Carrier/ });
  await expect(carrier).toBeFocused();
  await enter(coverIt.code(), /^Medicine Bow/);
  await expect(cover.getByText('no active operating authority')).toBeVisible();
  await carrier.fill('');
  await enter(coverIt.code(), /^Two Forks/);
  await cover.getByLabel('Pay').fill(coverIt.code());
  await expect(cover.getByText(/\d+\.\d %/).first()).toBeVisible();
  const give = cover.getByRole('button', { name: coverIt.name() });
  await give.focus();
  await page.keyboard.press('Enter');
  await expect(message(page, `${made} tendered to Two Forks`)).toBeVisible();
  coverIt.done();

  // 5: the carrier accepts.
  await room(page, simulator.name()).click();
  const mail = page.getByRole('button', { name: new RegExp(`Rate confirmation for load ${made}`) });
  await expect(mail).toBeVisible({ timeout: 60_000 });
  await mail.click();
  const link = await page.getByRole('link', { name: simulator.name() }).getAttribute('href');
  await page.goto(link!);
  await page.getByLabel('Your name').fill('Jo Ferro');
  await page.getByRole('button', { name: new RegExp(`^${simulator.name()} load ${made}`) }).click();
  await expect(page.getByText('Accepted, signed Jo Ferro')).toBeVisible();
  await sendDriver(page, simulator.name());
  simulator.done();

  // 6: a driver, and Roll.
  await page.goto('/today');
  const phone = await as(browser, phoneStep.code(), true);
  const step = phone.getByRole('button', { name: /^(Accept trip|Arrived|Loaded, departing|Delivered)/ });
  await expect(step).toHaveCount(1);
  await expect(phone.getByRole('heading', { level: 1 })).not.toHaveText('');
  const number = /load (\d+)/.exec(await phone.locator('main').innerText())![1];
  await room(page, phoneStep.name()).click();
  await page.getByRole('button', { name: new RegExp(number) }).click();
  const events = page
    .getByRole('complementary', { name: 'load' })
    .locator('section')
    .filter({ hasText: 'History' })
    .locator('li');
  await expect(events.first()).toBeVisible();
  const before = await events.first().innerText();
  const label = await step.innerText();
  const receiver = phone.getByLabel('Receiver name');
  if (await receiver.isVisible()) await receiver.fill('R. Dahl');
  await step.click();
  await expect(phone.getByRole('button', { name: label, exact: true })).toHaveCount(0);
  await expect.poll(() => events.first().innerText()).not.toBe(before);
  phoneStep.done();

  // 7: billing.
  await room(page, bill.name()).click();
  await expect(page.getByRole('button', { name: /^Bill \d+ for/ })).toBeVisible();
  await page.keyboard.press('Shift+B');
  const batch = page.getByRole('complementary', { name: 'billing run' });
  await expect(batch.getByRole('heading', { name: /^Billed \d+ of \d+/ })).toBeVisible({ timeout: 60_000 });
  await page.keyboard.press('Escape');
  await page
    .getByRole('button', { name: new RegExp(`^${bill.name()}`) })
    .first()
    .click();
  await expect(
    page.getByRole('complementary', { name: 'payment' }).getByRole('combobox', { name: /^From/ }),
  ).toBeVisible();
  bill.done();

  // 8: a settlement.
  await page.keyboard.press('Escape');
  await room(page, pay.name()).click();
  await page.getByRole('region', { name: 'Driver settlements' }).getByRole('button').first().click();
  const week = page.getByRole('complementary', { name: 'settlement' });
  await expect(week.getByRole('button', { name: /^Approve/ })).toBeVisible();
  await page.keyboard.press(pay.code());
  await expect(message(page, /settlement approved for/)).toBeVisible();
  pay.done();

  // 9: the map.
  await room(page, map.name()).click();
  await expect(page.getByRole('button', { name: /truck \d+|\d{4}/i }).first()).toBeVisible();
  await page.getByRole('navigation', { name: 'Map, views' }).getByRole('button', { name: map.name() }).click();
  const within = map.code();
  await page.getByLabel('Near, or from').fill(map.code());
  await page.getByLabel('Within, mi').fill(within);
  await page.getByRole('button', { name: 'Search' }).click();
  const hits = page.locator('section button .fig').filter({ hasText: / mi$/ });
  await expect(hits.first()).toBeVisible();
  for (const miles of await hits.allInnerTexts()) expect(parseFloat(miles)).toBeLessThanOrEqual(Number(within));
  map.done();

  // 10: runs.
  await room(page, runs.name()).click();
  await page.getByRole('button', { name: runs.name() }).click();
  await page.getByLabel(/Stops, one per line/).fill(`${runs.code()}\n${runs.code()}`);
  await page.keyboard.press('Control+Enter');
  const plan = page.getByRole('button', { name: 'Plan 2 stops' });
  await expect(plan).toBeEnabled();
  await plan.click();
  await expect(page.locator('[data-stop]')).toHaveCount(2, { timeout: 60_000 });
  runs.done();

  // 11: the books.
  await room(page, ledger.name()).click();
  const total = page.getByRole('row', { name: /Total through/ });
  await expect(total.getByRole('cell').last()).toHaveText('0.00');
  await page.getByRole('row').getByRole('link').first().click();
  await expect(page.getByRole('row').nth(1)).toBeVisible();
  ledger.done();
});
