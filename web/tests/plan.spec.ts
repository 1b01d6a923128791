import { expect, type Page } from '@playwright/test';
import { as, message, test } from './business';
import { assignable, driverOf, plan } from './plan';

test('a load is assigned on the plan by keyboard, with its effect shown first, and undone', async ({ browser }) => {
  const page = await as(browser, 'ines');
  const { leg, able, board } = await assignable(page);
  const best = able[0].name;
  await page.goto('/plan?days=7');
  await expect(page.getByRole('grid', { name: 'Plan by drivers' })).toBeVisible();
  const down = board.drivers.length + board.open.findIndex((l) => l.legId === leg.legId) + 1;
  for (let i = 0; i < down; i++) await page.keyboard.press('ArrowDown');

  // Enter tries the best driver; an arrow tries the next one; nothing is changed yet.
  await page.keyboard.press('Enter');
  const change = page.getByRole('region', { name: 'Change of the plan' });
  await expect(change).toContainText(`${leg.load} to ${best}`);
  await expect(change).toContainText(/empty miles/);
  await expect(change.getByRole('listitem')).toHaveCount(2);
  await page.keyboard.press('ArrowDown');
  await expect(change).not.toContainText(`${leg.load} to ${best}`);
  await page.keyboard.press('ArrowUp');
  await expect(change).toContainText(`${leg.load} to ${best}`);
  await expect(change).toContainText(/empty miles/);
  expect(await driverOf(page, leg.loadId)).toBeNull();

  await page.keyboard.press('Enter');
  await expect(message(page, `${leg.load} assigned to ${best}`)).toBeVisible();
  await expect(change).toBeHidden();
  await expect(page.getByRole('button', { name: new RegExp(`load .*${leg.load}`) })).toHaveCount(1);
  await message(page, `${leg.load} assigned to ${best}`).getByRole('button', { name: 'Undo' }).click();
  await expect(message(page, 'Undone.')).toBeVisible();
  expect(await driverOf(page, leg.loadId)).toBeNull();
});

test('a load is dragged to a driver, its trip to another one, and both users see it', async ({ browser }) => {
  const page = await as(browser, 'ines');
  const other = await as(browser, 'dana');
  const {
    leg,
    able: [first, second],
  } = await assignable(page);
  // Tall enough to show the loads and every driver.
  for (const p of [page, other]) {
    await p.setViewportSize({ width: 1280, height: 1900 });
    await p.goto('/plan?days=7');
  }
  const line = (p: Page, driver: { driverId: number }) => p.locator(`[data-plan="drivers-${driver.driverId}"]`);
  const trip = (p: Page, driver: { driverId: number }) =>
    line(p, driver).getByRole('button', { name: new RegExp(`load .*${leg.load}`) });
  const change = page.getByRole('region', { name: 'Change of the plan' });

  await page.locator(`[data-plan="leg-${leg.legId}"]`).dragTo(line(page, first).getByRole('rowheader'));
  await expect(change).toContainText(`${leg.load} to ${first.name}`);
  await change.getByRole('button', { name: /^(Assign|Change anyway)/ }).click();
  await expect(trip(page, first)).toHaveCount(1);
  await expect(trip(other, first)).toHaveCount(1);

  await trip(page, first).dragTo(line(page, second).getByRole('rowheader'));
  await expect(change).toContainText(`to ${second.name}`);
  await change.getByRole('button', { name: /^(Move|Change anyway)/ }).click();
  await expect(trip(page, second)).toHaveCount(1);
  await expect(trip(other, second)).toHaveCount(1);
  await expect(trip(other, first)).toHaveCount(0);

  // u unassigns the trip.
  await trip(page, second).click();
  await page.keyboard.press('u');
  await expect(change).toContainText('unassigned');
  await change.getByRole('button', { name: 'Unassign' }).click();
  await expect(page.locator(`[data-plan="leg-${leg.legId}"]`)).toBeVisible();
  expect(await driverOf(page, leg.loadId)).toBeNull();
});

test('time off and a home-by time are entered on the plan', async ({ browser }) => {
  const page = await as(browser, 'ines');
  const board = await plan(page);
  const free = board.drivers.filter((d) => d.trips.every((t) => t.startedAt)).at(-1)!;
  await page.goto('/plan?days=14');
  await page.locator(`[data-plan="drivers-${free.id}"]`).getByRole('button', { name: free.name }).click();
  const sheet = page.getByRole('complementary', { name: 'driver' });
  await sheet.getByLabel('Off from').fill('dec 3 0600');
  await sheet.getByLabel('Back').fill('dec 1 0600');
  await sheet.getByRole('button', { name: 'Add time off' }).click();
  await expect(sheet).toContainText('The time off has to end after it begins.');
  await sheet.getByLabel('Back').fill('dec 5 0600');
  await sheet.getByLabel('Note').fill('training');
  await sheet.getByRole('button', { name: 'Add time off' }).click();
  await expect(message(page, `${free.name} is off from Thu Dec 3, 06:00`)).toBeVisible();
  await expect(sheet).toContainText('training');
  await sheet.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(message(page, `Time off of ${free.name} removed`)).toBeVisible();
  await expect(sheet).not.toContainText('training');

  // The days shown are chosen by keys.
  await page.keyboard.press('Escape');
  await page.keyboard.press('+');
  await expect(page).toHaveURL(/days=7/);
  await page.keyboard.press(']');
  await expect(page).toHaveURL(/from=2026-11-25/);
  await page.getByRole('button', { name: 'Trucks' }).click();
  await expect(page.getByRole('grid', { name: 'Plan by trucks' })).toBeVisible();
});
