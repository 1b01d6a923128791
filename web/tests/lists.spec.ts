import { expect, test } from '@playwright/test';
import { as, leave } from './business';

test.afterEach(leave);

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
  await page.getByLabel('Value of filter 1').selectOption('closed');
  await expect(grid.getByText('closed').first()).toBeVisible();
  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByRole('checkbox', { name: 'Margin' }).check();
  await expect(page.getByRole('columnheader', { name: 'Margin' })).toBeVisible();
  const name = `closed ${Date.now() % 10_000}`;
  await page.getByRole('button', { name: 'Save view' }).click();
  await page.getByLabel('View name').fill(name);
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText(`View “${name}” saved`)).toBeVisible();
  await page.getByRole('button', { name: 'Filters' }).click();
  await page.getByRole('button', { name: 'Remove all' }).click();
  await page.getByLabel('My views').selectOption({ label: name });
  await expect(page.getByLabel('Value of filter 1')).toHaveValue('closed');

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
