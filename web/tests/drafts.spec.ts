import { expect } from '@playwright/test';
import { as, select, test } from './business';

test('a half-written load is offered again after leaving, reloading and signing out, until it is discarded', async ({
  browser,
}) => {
  const page = await as(browser, 'bo');
  const form = page.getByRole('form', { name: 'Book a load' });
  const offer = form.getByText(/You left this unfinished on/);
  await page.goto('/book?new');
  await expect(offer).toHaveCount(0);
  await form.getByLabel('Customer reference').fill('PO half-written');
  await select(form, 'Equipment', 'reefer');
  await form.getByLabel('Description').first().fill('butter');

  // Another room and back.
  await page.getByRole('link', { name: /^Roll/ }).click();
  await expect(page.getByRole('heading', { name: 'Roll' })).toBeVisible();
  await page.goto('/book?new');
  await expect(offer).toBeVisible();
  await form.getByRole('button', { name: 'Continue' }).click();
  await expect(form.getByLabel('Customer reference')).toHaveValue('PO half-written');
  await expect(form.getByLabel('Equipment')).toHaveText('reefer');
  await expect(form.getByLabel('Description').first()).toHaveValue('butter');
  await form.getByLabel('Weight, lb').fill('38400');

  // The page is loaded again, and the user signs out and in.
  await page.reload();
  await expect(offer).toBeVisible();
  await page.getByRole('button', { name: 'Sign out' }).click();
  await page.waitForURL(/signin/);
  await page.getByLabel('Username').fill('bo');
  await page.getByLabel('Password').fill('steady-lark');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.waitForURL(/today/);
  await page.goto('/book?new');
  await form.getByRole('button', { name: 'Continue' }).click();
  await expect(form.getByLabel('Weight, lb')).toHaveValue('38400');

  // Discarded, it is gone.
  await page.goto('/book?new');
  await form.getByRole('button', { name: 'Discard' }).click();
  await expect(offer).toHaveCount(0);
  await page.goto('/book?new');
  await expect(form.getByLabel('Customer reference')).toHaveValue('');
  await expect(offer).toHaveCount(0);
});

test('drafts belong to their user and their form', async ({ browser }) => {
  const page = await as(browser, 'dana');
  await page.goto('/setup?new=customer');
  const company = page.getByRole('group', { name: 'New company' });
  await company.getByRole('textbox', { name: /^Name/ }).fill('Thistle Oats half-written');
  await page.goto('/setup?new=carrier');
  await expect(company.getByText(/You left this unfinished/)).toHaveCount(0);
  await page.goto('/setup?new=customer');
  await company.getByRole('button', { name: 'Continue' }).click();
  await expect(company.getByRole('textbox', { name: /^Name/ })).toHaveValue('Thistle Oats half-written');

  const other = await as(browser, 'bo');
  await other.evaluate((kept) => Object.entries(kept).forEach(([k, v]) => localStorage.setItem(k, v)), {
    ...(await page.evaluate(() => ({ ...localStorage }))),
  });
  await other.goto('/setup?new=customer');
  await expect(other.getByRole('group', { name: 'New company' })).toBeVisible();
  await expect(other.getByText(/You left this unfinished/)).toHaveCount(0);
});

for (const [what, path, label, value] of [
  ['list of addresses', '/runs?new', /Stops, one per line/, 'Helena MT; 20 min'],
  ['invitation', '/setup?tab=users&new=user', 'Name', 'Pat Lund'],
  ['change to a user', '/setup?tab=users&user=4', 'Email', 'someone.else@tamarackbend.example'],
  ['company setting', '/setup?tab=settings', /^Fuel price/, '9.87'],
  ['change to a place', '/setup?tab=places&place=1', /^Booking note/, 'ring the bell at gate 3'],
] as const)
  test(`a half-written ${what} is offered again, and what was only read is not`, async ({ browser }) => {
    const page = await as(browser, 'dana');
    await page.goto(path);
    const field = page.getByLabel(label).first();
    await expect(field).toBeVisible();
    await page.waitForTimeout(500);
    await page.goto('/today');
    await page.goto(path);
    await expect(field).toBeVisible();
    await expect(page.getByText(/You left this unfinished/)).toHaveCount(0);
    const before = await field.inputValue();
    await field.fill(value);
    await page.goto('/today');
    await page.goto(path);
    await page.getByRole('button', { name: 'Continue' }).click();
    await expect(field).toHaveValue(value);
    await page.reload();
    await page.getByRole('button', { name: 'Discard' }).click();
    await expect(field).toHaveValue(before);
    await page.reload();
    await expect(field).toHaveValue(before);
    await expect(page.getByText(/You left this unfinished/)).toHaveCount(0);
  });
