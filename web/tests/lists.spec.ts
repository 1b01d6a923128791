import { expect } from '@playwright/test';
import { as, test } from './business';

test('a list by keyboard alone: filtered, sorted, arranged, saved as a view, selected from, opened and exported', async ({
  browser,
}) => {
  const page = await as(browser, 'dana');
  await page.goto('/book?tab=all');
  const grid = page.getByRole('grid');
  await expect(grid).toHaveAccessibleName(/Loads, \d{4} rows/);

  // Far more rows than the window holds: only those in it are there, and the last is one key away.
  expect(await grid.getByRole('row').count()).toBeLessThan(90);
  await grid.focus();
  await page.keyboard.press('End');
  await expect(grid.getByRole('row').filter({ hasText: '2001' })).toBeVisible();
  await page.keyboard.press('Home');

  await page.keyboard.press('f');
  await page.keyboard.type('snowberry');
  await expect(grid).not.toHaveAccessibleName(/\d{4} rows/);
  await page.keyboard.press('Enter');
  await expect(grid).toBeFocused();
  await page.getByRole('columnheader', { name: 'Revenue' }).getByRole('button').focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('columnheader', { name: 'Revenue' })).toHaveAttribute('aria-sort', 'descending');
  await expect(async () => {
    const amounts = (await grid.getByRole('row').allInnerTexts())
      .slice(1, 12)
      .map((t) => Number(t.trim().split('\n').at(-1)!.replace(/,/g, '')));
    expect(amounts).toEqual([...amounts].sort((a, b) => b - a));
  }).toPass();

  // A filter by a word, a column more, and all of it kept.
  await page.getByRole('button', { name: 'Filters' }).click();
  await page.getByRole('button', { name: 'Add a filter' }).click();
  await page.getByLabel('Value of filter 1').click();
  await page.getByRole('option', { name: 'closed' }).click();
  await page.keyboard.press('Escape');
  await expect(grid.getByText('closed').first()).toBeVisible();
  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByRole('checkbox', { name: 'Margin', exact: true }).check();
  await expect(page.getByRole('columnheader', { name: 'Margin', exact: true })).toBeVisible();
  const name = `closed ${Date.now() % 10_000}`;
  await page.getByRole('button', { name: 'Save view' }).click();
  await page.getByLabel('View name').fill(name);
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText(`View “${name}” saved`)).toBeVisible();
  await page.getByRole('button', { name: 'Filters' }).click();
  await page.getByRole('button', { name: 'Remove all' }).click();
  await page.getByLabel('Views', { exact: true }).click();
  await page.getByRole('option', { name }).click();
  await expect(page.getByLabel('Value of filter 1')).toHaveText('closed');

  await grid.focus();
  await page.keyboard.press('Home');
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Shift+ArrowDown');
  await expect(page.getByText('3 selected')).toBeVisible();
  const file = page.waitForEvent('download');
  await page.getByRole('button', { name: 'CSV' }).click();
  expect((await file).suggestedFilename()).toBe('loads.csv');
  await expect(page.getByText('3 rows exported as CSV.')).toBeVisible();
  await grid.focus();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('complementary')).toContainText('Snowberry Creamery');
});

test('loads by customer and month with subtotals: opened by keyboard, summed, filtered by several values, shared', async ({
  browser,
}) => {
  const page = await as(browser, 'dana');
  await page.goto('/book?tab=all');
  const grid = page.getByRole('grid');
  await expect(grid).toHaveAccessibleName(/Loads, \d{4} rows/);
  // The sums come after the rows.
  const total = grid.getByRole('row').last();
  await expect(total).toContainText(/Total\s*[\d,]+\.\d\d/);
  const whole = await total.innerText();

  await page.getByRole('button', { name: 'Groups' }).click();
  await page.getByRole('button', { name: 'Group rows' }).click();
  await page.getByLabel('Column of group 1').click();
  await page.getByRole('option', { name: 'Customer', exact: true }).click();
  await page.getByRole('button', { name: 'Group within' }).click();
  await page.getByLabel('Column of group 2').click();
  await page.getByRole('option', { name: 'Booked', exact: true }).click();
  const months = grid.getByRole('row').filter({ hasText: /[A-Z][a-z]{2} 20\d\d/ });
  await expect(months.first()).toBeVisible();
  // The groups' sums are the list's.
  await expect(async () => expect(await total.innerText()).toBe(whole)).toPass();

  // A group opens and closes by keyboard, and its rows are below it.
  await grid.focus();
  await page.keyboard.press('Home');
  await page.keyboard.press('ArrowDown');
  const head = grid.getByRole('row').nth(2);
  const rows = Number(/20\d\d\s+([\d,]+)/.exec(await head.innerText())![1].replace(/,/g, ''));
  await page.keyboard.press('ArrowRight');
  await expect(head).toHaveAttribute('aria-expanded', 'true');
  const bookedIn = grid.getByRole('row').nth(3);
  await expect(bookedIn).toContainText(/\d{4}/);
  await page.keyboard.press('Space');
  await expect(page.getByText(`${rows} selected`)).toBeVisible();
  if (rows > 1) await expect(grid.getByRole('row').last()).toContainText('Selected');
  await page.keyboard.press('Escape');
  await page.keyboard.press('ArrowLeft');
  await expect(head).toHaveAttribute('aria-expanded', 'false');

  // Two customers of many, by typing.
  await page.getByRole('button', { name: 'Filters' }).click();
  await page.getByRole('button', { name: 'Add a filter' }).click();
  await page.getByLabel('Column of filter 1').click();
  await page.getByRole('option', { name: 'Customer', exact: true }).click();
  const value = page.getByLabel('Value of filter 1');
  for (const word of ['snowberry', 'hollow creek']) {
    await value.fill(word);
    await value.press('Enter');
  }
  await expect(grid.locator('[aria-expanded]').filter({ hasText: 'Hollow Creek Honey' })).toHaveCount(1);
  await expect(grid.locator('[aria-expanded]').filter({ hasText: 'Snowberry Creamery' })).toHaveCount(1);
  await expect(grid.locator('[aria-expanded]').filter({ hasText: 'Kettle Ridge Dairy' })).toHaveCount(0);

  // Shared, it is there for another user, who may not change it.
  const name = `two customers ${Date.now() % 10_000}`;
  await page.getByRole('button', { name: 'Save view' }).click();
  await page.getByLabel('View name').fill(name);
  await page.getByLabel('Share with everyone').check();
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText(`View “${name}” saved and shared`)).toBeVisible();
  const other = await as(browser, 'bo');
  await other.goto('/book?tab=all');
  await other.getByLabel('Views', { exact: true }).click();
  await other.getByRole('option', { name: new RegExp(name) }).click();
  await expect(
    other.getByRole('grid').locator('[aria-expanded]').filter({ hasText: 'Snowberry Creamery' }),
  ).toHaveCount(1);
  await expect(other.getByRole('button', { name: 'Delete view' })).toHaveCount(0);
});
