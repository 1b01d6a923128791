import { expect, type Browser, type Page } from '@playwright/test';
import { as, test } from './business';

/** The page of parts, whose clock stands at Tuesday, November 24, 2026. */
async function parts(browser: Browser): Promise<Page> {
  const page = await as(browser, 'bo');
  await page.goto('/ui');
  return page;
}

test('an amount is read as typed, shown with cents, and an unreadable one is never thrown away', async ({
  browser,
}) => {
  const page = await parts(browser);
  const pay = page.getByLabel('Pay', { exact: false }).first();
  for (const [typed, shown] of [
    ['1850', '1,850.00'],
    ['$2,400.5', '2,400.50'],
    ['1.9k', '1,900.00'],
    ['.75', '0.75'],
  ]) {
    await pay.fill(typed);
    await pay.blur();
    await expect(pay).toHaveValue(shown);
    await expect(pay).toHaveAttribute('aria-invalid', 'false');
  }

  for (const typed of ['12.345', 'about 900', '1,85']) {
    await pay.fill(typed);
    await pay.blur();
    await expect(pay).toHaveValue(typed);
    await expect(pay).toHaveAttribute('aria-invalid', 'true');
    await expect(
      page.getByRole('alert').filter({ hasText: 'Enter an amount such as 1850 or 1,850.00.' }),
    ).toBeVisible();
  }

  await pay.fill('900');
  await expect(page.getByRole('alert').filter({ hasText: 'Enter an amount' })).toHaveCount(0);
});

test('an appointment is typed in words, in the time zone of its place', async ({ browser }) => {
  const page = await parts(browser);
  const when = page.getByLabel('Appointment: try', { exact: false });
  for (const [typed, shown] of [
    ['wed 14:30', /Nov 25, 14:30/],
    ['2:30p', /Nov 24, 14:30/],
    ['+2d 0800', /Nov 26, 08:00/],
  ] as const) {
    await when.fill(typed);
    await expect(page.locator(`[id="${await when.getAttribute('aria-describedby')}"]`)).toContainText(shown);
    await when.blur();
    await expect(when).toHaveValue(shown);
  }

  await when.fill('next blue moon');
  await when.blur();
  await expect(when).toHaveValue('next blue moon');
  await expect(when).toHaveAttribute('aria-invalid', 'true');
  await expect(page.getByRole('alert').filter({ hasText: 'Enter a time such as' })).toBeVisible();
});

test('a choice is made by keys alone, and its first letter finds it', async ({ browser }) => {
  const page = await parts(browser);
  const equipment = page.getByLabel('Equipment');
  await equipment.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('option', { name: 'van' })).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(equipment).toHaveText('reefer');
  await expect(equipment).toBeFocused();
  await page.keyboard.press('v');
  await expect(equipment).toHaveText('van');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('option')).toHaveCount(0);
  await expect(equipment).toHaveText('van');
});

test('Enter goes to what is missing and then submits; Ctrl Enter submits from any field', async ({ browser }) => {
  const page = await parts(browser);
  const form = page.getByRole('form', { name: 'Sample form' });
  const [payee, paid, on] = [
    form.getByLabel('Payee'),
    form.getByLabel('Paid', { exact: false }).first(),
    form.getByLabel('Paid on'),
  ];
  await payee.fill('Grant Creek Properties');
  await payee.press('Enter');
  await expect(form.getByLabel(/^Paid(?! on)/)).toBeFocused();
  await page.keyboard.type('640');
  await page.keyboard.press('Enter');
  await expect(on.first()).toBeFocused();
  await expect(form.getByRole('status')).toHaveText('');
  await page.keyboard.type('11/20');
  await page.keyboard.press('Enter');
  await expect(form.getByRole('status')).toHaveText('Grant Creek Properties, 640.00, 2026-11-20');

  // The error of a field goes away as soon as it is touched.
  await on.first().fill('');
  await payee.fill('Lolo Tire and Axle');
  await payee.press('Control+Enter');
  await expect(form.getByRole('alert')).toHaveText('Enter the day it was paid.');
  await on.first().fill('nov 23');
  await expect(form.getByRole('alert')).toHaveCount(0);
  await payee.press('Control+Enter');
  await expect(form.getByRole('status')).toHaveText('Lolo Tire and Axle, 640.00, 2026-11-23');
  void paid;
});

test('an inner part takes the focus, acts on Enter, and gives the focus back on Escape', async ({ browser }) => {
  const page = await parts(browser);
  const form = page.getByRole('form', { name: 'Sample form' });
  await form.getByRole('button', { name: 'Add a note' }).click();
  await expect(form.getByLabel('Note')).toBeFocused();
  await page.keyboard.type('called back');
  await page.keyboard.press('Enter');
  await expect(form.getByRole('status')).toHaveText('note called back');
  await page.keyboard.press('Escape');
  await expect(form.getByLabel('Note')).toHaveCount(0);
  await expect(form).toBeVisible();
});

test('a town that is not known is created in place, and Escape leaves the picker with what it had', async ({
  browser,
}) => {
  const page = await parts(browser);
  const town = page.getByRole('combobox', { name: /^Town/ });
  await town.click();
  await town.pressSequentially('miles');
  await page.keyboard.press('Enter');
  await expect(town).toHaveValue('Miles City');
  await town.fill('mo');
  await expect(page.getByRole('option', { name: 'Moses Lake' })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('option')).toHaveCount(0);
  await town.fill('Zortman');
  await page.getByRole('option', { name: /Zortman/ }).click();
  await expect(page.getByRole('option')).toHaveCount(0);
});
