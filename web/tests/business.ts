import { expect, test as base, type Browser, type Locator, type Page } from '@playwright/test';

/**
 * A test of the running application: at its end all its browser contexts are closed, as a user may hold eight live streams at once and
 * every open page reloads at each change; and nothing on its pages went wrong.
 */
export const test = base.extend<{ tidy: void }>({
  tidy: [
    async ({ browser }, use) => {
      await use();
      for (const context of browser.contexts()) await context.close();
      expect(faults.splice(0)).toEqual([]);
    },
    { auto: true },
  ],
});

/** Someone signed in, in a browser of their own. Anything that reaches outside or breaks the page's policy fails the test. */
export async function as(browser: Browser, login: string, phone = false): Promise<Page> {
  const context = await browser.newContext({
    viewport: phone ? { width: 390, height: 844 } : { width: 1280, height: 800 },
    timezoneId: 'America/Denver',
  });
  const page = await context.newPage();
  watch(page);
  await page.goto('/signin');
  await page.getByLabel('Username').fill(login);
  await page.getByLabel('Password').fill('steady-lark');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.waitForURL((url) => !url.pathname.startsWith('/signin'));
  return page;
}

export const faults: string[] = [];
export function watch(page: Page) {
  page.on('console', (m) => {
    if (m.type() === 'error' && !/status of 4\d\d/.test(m.text())) faults.push(`${page.url()}: ${m.text()}`);
  });
  page.on('pageerror', (e) => faults.push(`${page.url()}: ${e.message}`));
  page.on('request', (r) => {
    if (
      !/^(data|blob):/.test(r.url()) &&
      new URL(r.url()).origin !== new URL(page.url()).origin &&
      page.url() !== 'about:blank'
    )
      faults.push(`asked elsewhere: ${r.url()}`);
  });
}

/** What the page says was done, apart from the history that says it too. */
export const message = (page: Page, text: string | RegExp) =>
  page.locator('[data-sonner-toast]').filter({ hasText: text }).first();

/** Types into a picker and takes the first that fits. */
export async function pick(page: Page, label: string, typed: string, nth = 0) {
  const field = page.getByRole('combobox', { name: new RegExp(`^${label}`) }).nth(nth);
  await field.click();
  await field.fill(typed);
  await page
    .getByRole('option', { name: new RegExp(`^${typed}`, 'i') })
    .first()
    .click();
  await expect(field).toHaveValue(new RegExp(typed, 'i'));
}

/** Books a load by hand in the form and tells its number. Times are typed as people type them. */
export async function book(page: Page, pickup: string, delivery: string, haul: string): Promise<string> {
  await page.goto('/book');
  await page.getByRole('button', { name: 'New load' }).click();
  const form = page.getByRole('form', { name: 'Book a load' });
  await pick(page, 'Customer', 'Snowberry Creamery');
  await form.getByLabel('Customer reference').fill('PO 77120');
  await select(form, 'Equipment', 'reefer');
  await pick(page, 'Place', 'Snowberry Creamery', 0);
  await form.getByLabel('Appointment').nth(0).fill(pickup);
  await pick(page, 'Place', 'Northgate Cold', 1);
  await form.getByLabel('Appointment').nth(1).fill(delivery);
  await form.getByLabel('Description').first().fill('butter');
  await form.getByLabel('Weight, lb').fill('38400');
  await form.getByLabel('Amount, USD').fill(haul);
  await form.getByRole('button', { name: /Book load for/ }).click();
  const said = message(page, /\d+ booked/);
  await expect(said).toBeVisible();
  return /(\d+) booked/.exec(await said.innerText())![1];
}

export const amount = (text: string) => Number(text.replace(/[^\d.-]/g, ''));

/** Chooses an option of a select, by its label. */
export async function select(scope: Page | Locator, label: string | RegExp, option: string | RegExp) {
  const field = scope.getByLabel(label);
  await field.click();
  const page = 'page' in scope ? scope.page() : scope;
  await page.getByRole('option', { name: option, exact: typeof option === 'string' }).click();
  await expect(field).toHaveText(option);
}

/** On a carrier's link: says who comes for the freight. */
export async function sendDriver(page: Page, button = 'Send driver and truck') {
  const field = (name: RegExp) => page.getByRole('textbox', { name });
  await field(/^Driver[^’]*$/).fill('Ray Ostrander');
  await field(/phone/).fill('509-555-0142');
  await field(/^Truck/).fill('118');
  await page.getByRole('button', { name: button }).click();
  await expect(page.getByText('Ray Ostrander, 509-555-0142, truck 118')).toBeVisible();
}
