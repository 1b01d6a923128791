import { expect, type Page } from '@playwright/test';
import { as, message, pick, select, test } from './business';
import { assignBest, get, unassign } from './plan';

interface Trip {
  id: number;
  number: string;
  startsAt?: string | null;
  visits: { loadId: number | null; from: string; until: string; own: string | null }[];
}
const tripsOf = async (page: Page, load: number) =>
  (await get<{ drivers: { name: string; trips: Trip[] }[] }>(page, 'plan?days=7')).drivers.flatMap((d) =>
    d.trips.filter((t) => t.visits.some((v) => v.loadId === load)).map((t) => ({ ...t, driver: d.name })),
  );
const denver = (at: number) =>
  new Intl.DateTimeFormat('en-US', {
    timeZone: 'America/Denver',
    month: 'short',
    day: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
  })
    .format(at)
    .replace(',', '')
    .toLowerCase();

test('a trip starts later by keys, by dragging, and as early as it can again', async ({ browser }) => {
  const page = await as(browser, 'ines');
  const leg = await assignBest(page);
  const [{ number, visits }] = await tripsOf(page, leg.loadId);
  const opens = Date.parse(visits[0].from);
  const change = page.getByRole('region', { name: 'Change of the plan' });
  const trip = page.getByRole('button', { name: new RegExp(`^Trip ${number}\\b`) });

  // Each arrow is a quarter of an hour; nothing is changed until Enter.
  await trip.click();
  await page.keyboard.press('w');
  await expect(change).toContainText(`Trip ${number}`);
  await expect(change.getByRole('listitem').first()).toContainText('start');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Shift+ArrowRight');
  await expect(change.getByRole('button', { name: /^(Move|Change anyway)/ })).toBeVisible();
  expect((await tripsOf(page, leg.loadId))[0].startsAt ?? null).toBeNull();
  await page.keyboard.press('Enter');
  await expect(message(page, `Trip ${number} starts`)).toBeVisible();
  const starts = Date.parse((await tripsOf(page, leg.loadId))[0].startsAt!);
  expect(Math.abs(starts - opens - 75 * 60_000)).toBeLessThanOrEqual(8 * 60_000);

  // Dragged along its line, to the right by about a tenth of the days shown.
  const box = (await trip.boundingBox())!;
  await trip.dragTo(page.locator('[data-plan]').filter({ has: trip }).getByRole('gridcell').first(), {
    sourcePosition: { x: 8, y: box.height / 2 },
    targetPosition: { x: Math.min(box.x + 140, 860) - 344 + 104, y: box.height / 2 },
    force: true,
  });
  await expect(change).toContainText('to start');
  await page.keyboard.press('Escape');
  await expect(change).toBeHidden();

  // The time is typed; one that has passed is refused in words.
  await trip.click();
  await page.keyboard.press('w');
  await change.getByLabel('Start time').fill('nov 20 0800');
  await expect(change).toContainText('This time has passed: choose a later start.');
  await change.getByRole('button', { name: 'No set start' }).click();
  await expect(change).toContainText('without a set start');
  await change.getByRole('button', { name: /^(Move|Change anyway)/ }).click();
  await expect(message(page, `Trip ${number} has no set start`)).toBeVisible();
  const [after] = await tripsOf(page, leg.loadId);
  expect([after.startsAt ?? null, after.visits.length]).toEqual([null, visits.length]);
  await unassign(page, number);
});

test('a load is split on the plan, and joined again', async ({ browser }) => {
  const page = await as(browser, 'ines');
  const leg = await assignBest(page);
  const [{ number, visits, driver }] = await tripsOf(page, leg.loadId);
  const change = page.getByRole('region', { name: 'Change of the plan' });
  const middle = (Date.parse(visits[0].from) + Date.parse(visits.at(-1)!.until)) / 2;
  await page.getByRole('button', { name: new RegExp(`^Trip ${number}\\b`) }).click();
  // The plan is as it is now that it shows the trip. A load that was split before has another open leg.
  const legs = page.locator('[data-plan^="leg-"]').filter({ hasText: leg.load });
  const before = await legs.count();
  await page.keyboard.press('x');
  await expect(change).toContainText(`Split trip ${number}`);
  await expect(change).toContainText('Enter where and when the next truck takes the freight.');
  await pick(page, 'Transfer point', 'Deer Lodge MT');
  await change.getByLabel('Next truck takes it').fill(denver(Date.parse(visits.at(-1)!.until) + 864e5));
  await expect(change).toContainText('The freight is due in');
  await change.getByLabel('Next truck takes it').fill(denver(middle));
  await expect(change).toContainText(driver);
  await select(change, 'How', 'Transload');
  await change.getByRole('button', { name: /^(Split|Change anyway)/ }).click();
  await expect(message(page, `${leg.load} split in Deer Lodge MT`)).toBeVisible();
  await expect(legs).toHaveCount(before + 1);

  // Its next leg is open; joined, the first driver has the whole again.
  await page.getByRole('button', { name: new RegExp(`^Trip ${number}\\b`) }).click();
  await page.keyboard.press('y');
  await expect(change).toContainText(`Join legs of trip ${number}`);
  await change.getByRole('button', { name: /^(Join|Change anyway)/ }).click();
  await expect(message(page, `Legs of ${leg.load} joined`)).toBeVisible();
  await expect(legs).toHaveCount(before);
  await unassign(page, number);
});
