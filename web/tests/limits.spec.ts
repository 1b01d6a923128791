import { expect, type Page } from '@playwright/test';
import { as, message, select, test } from './business';

test.use({ actionTimeout: 20_000 });

/** Opens a user in Setup and waits until the form shows them. */
async function user(page: Page, name: string) {
  await page.goto('/setup?tab=users');
  await page.getByText(name, { exact: true }).click();
  const form = page.getByRole('complementary', { name: 'user' });
  await expect(form.getByLabel('Name')).toHaveValue(name);
  return form;
}

test('a dispatcher who is limited to a driver group sees its loads, and no other', async ({ browser }) => {
  const dana = await as(browser, 'dana');
  const dispatcher = await as(browser, 'ines');
  await dispatcher.goto('/roll');
  const rows = dispatcher.locator('main [role=listitem], main li').filter({ hasText: /→/ });
  await expect(rows.first()).toBeVisible();
  const all = await rows.count();
  expect(all).toBeGreaterThan(4);

  const form = await user(dana, 'Ines Calder');
  await form.getByLabel('Only some driver groups').check();
  await form.getByRole('button', { name: 'Save' }).click();
  await expect(form.getByText('Choose at least one driver group, or remove this limit.')).toBeVisible();
  await form.getByLabel('Regional').check();
  await form.getByRole('button', { name: 'Save' }).click();
  await expect(message(dana, 'Ines Calder saved.')).toBeVisible();
  await expect(dana.getByRole('button', { name: /Ines Calder.*limited/ })).toBeVisible();

  // At once: the page she has open, a list, and the address of a load she had open before.
  await dispatcher.goto('/roll');
  await expect(rows.first()).toBeVisible();
  const some = await rows.count();
  expect(some).toBeLessThan(all);
  const fleet = await dispatcher.request.get('/api/fleet').then((r) => r.json());
  expect(new Set(fleet.drivers.map((d: { group: string }) => d.group))).toEqual(new Set(['Regional']));
  const whole = await dana.request.get('/api/loads?view=moving&limit=200').then((r) => r.json());
  const hers = await dispatcher.request.get('/api/loads?view=moving&limit=200').then((r) => r.json());
  expect(hers.rows.length).toBeLessThan(whole.rows.length);
  const ids = new Set(hers.rows.map((r: { load: { id: number } }) => r.load.id));
  const hidden = whole.rows.find((r: { load: { id: number } }) => !ids.has(r.load.id)).load;
  await dispatcher.goto(`/load/${hidden.id}`);
  await expect(dispatcher.getByText(/was not found|not found/i).first()).toBeVisible();
  await expect(dispatcher.getByText(hidden.customer)).toHaveCount(0);
  await dispatcher.keyboard.press('/');
  await dispatcher.keyboard.type(hidden.number);
  await expect(
    dispatcher
      .getByRole('listbox')
      .or(dispatcher.getByText(/Nothing/))
      .first(),
  ).toBeVisible();
  await expect(dispatcher.getByRole('option', { name: new RegExp(`^${hidden.number}`) })).toHaveCount(0);
  await dispatcher.goto('/preferences');
  await expect(dispatcher.getByText('Your view is limited: 1 driver group.')).toBeVisible();

  const again = await user(dana, 'Ines Calder');
  await again.getByLabel('Only some driver groups').uncheck();
  await again.getByRole('button', { name: 'Save' }).click();
  await expect(dana.getByRole('button', { name: /Ines Calder.*limited/ })).toHaveCount(0);
  await dispatcher.goto('/roll');
  await expect(rows.first()).toBeVisible();
  expect(await rows.count()).toBe(all);
});

test('offices are added, given to loads, renamed and deactivated', async ({ browser }) => {
  const dana = await as(browser, 'dana');
  const name = `Spokane ${Date.now() % 10_000}`;
  await dana.goto('/setup?tab=units');
  const offices = dana.getByRole('region', { name: 'Offices' });
  await offices.getByLabel('New office').fill(name);
  await dana.keyboard.press('Enter');
  await expect(message(dana, `${name} added.`)).toBeVisible();
  await offices.getByLabel('New office').fill(name.toLowerCase());
  await dana.keyboard.press('Enter');
  await expect(offices.getByText(`There is already an office named ${name.toLowerCase()}.`)).toBeVisible();

  await dana.goto('/book?new');
  const form = dana.getByRole('form', { name: 'Book a load' });
  await select(form, 'Office', name);
  await form.getByRole('button', { name: 'Save as draft' }).click();
  await expect(message(dana, /saved as a draft/)).toBeVisible();
  await dana.goto('/book?tab=all');
  await dana.getByRole('row').nth(1).or(dana.locator('[data-row]').first()).first().waitFor();
  const keys = await dana.request.get('/api/session').then((r) => r.json());
  const found = await dana.request
    .post('/api/lists/loads/keys', {
      data: { query: { filters: [{ column: 'office', op: 'has', values: [name] }] }, count: 10 },
      headers: { 'X-Lark-Token': keys.token },
    })
    .then((r) => r.json());
  expect(found.keys).toHaveLength(1);

  await dana.goto('/setup?tab=units');
  const row = offices.getByRole('listitem').filter({ hasText: name });
  await row.getByRole('button', { name: 'Rename' }).click();
  await offices.getByLabel('New name').fill(`${name} West`);
  await offices.getByRole('button', { name: 'Save' }).click();
  await expect(message(dana, `${name} West renamed.`)).toBeVisible();
  await offices
    .getByRole('listitem')
    .filter({ hasText: `${name} West` })
    .getByRole('button', { name: 'Deactivate' })
    .click();
  await expect(message(dana, `${name} West deactivated.`)).toBeVisible();
  await dana.goto('/book?new');
  await expect(form.getByLabel('Customer reference')).toBeVisible();
  // Without any other office there is no choice of one.
  if (await form.getByLabel('Office').count()) await form.getByLabel('Office').click();
  await expect(dana.getByRole('option', { name: `${name} West` })).toHaveCount(0);
});
