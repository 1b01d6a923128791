import { expect } from '@playwright/test';
import { as, test } from './business';

// The server answers slowly, and somebody types quickly, at a normal pace, or slowly; Enter comes at once.
for (const delay of [0, 80, 300]) {
  test(`a company is chosen by what is typed, never by what was found before, at ${delay} ms a key`, async ({
    browser,
  }) => {
    const page = await as(browser, 'bo');
    await page.route(/\/api\/companies\?/, async (route) => {
      await new Promise((done) => setTimeout(done, 350));
      await route.continue();
    });
    await page.goto('/book?new');
    const form = page.getByRole('form', { name: 'Book a load' });
    const customer = form.getByRole('combobox', { name: /^Customer/ });
    for (const [typed, chosen] of [
      ['snowberry', 'Snowberry Creamery'],
      ['hollow creek honey', 'Hollow Creek Honey'],
      ['palisade', 'Palisade Millwork'],
    ]) {
      await customer.click();
      await customer.fill('');
      await customer.pressSequentially(typed, { delay });
      await customer.press('Enter');
      await expect(customer).toHaveValue(chosen);
    }

    // A new name that is like a known one is offered as a new company first, and Enter does not turn it into the known one.
    await customer.click();
    await customer.fill('');
    await customer.pressSequentially('Snowbery Cremery', { delay });
    await customer.press('Enter');
    await expect(
      page.getByRole('form', { name: 'New company' }).or(page.getByRole('group', { name: 'New company' })),
    ).toBeVisible();
    await expect(page.getByLabel('Name', { exact: false }).first()).toHaveValue('Snowbery Cremery');
  });
}
