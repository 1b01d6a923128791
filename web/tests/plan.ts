import { expect, type Page } from '@playwright/test';
import { message } from './business';

/** What the plan shows, as the tests read it. */
interface Board {
  drivers: {
    id: number;
    name: string;
    equipment: string | null;
    trips: { startedAt: string | null; endedAt: string | null }[];
  }[];
  open: { legId: number; leg: number; loadId: number; load: string; equipment: string | null }[];
}
export const get = async <T>(page: Page, path: string) => (await (await page.request.get(`/api/${path}`)).json()) as T;
export const plan = (page: Page) => get<Board>(page, 'plan?days=7');
export const driverOf = async (page: Page, load: number) =>
  (await get<{ sheet: { load: { who: string | null } } }>(page, `loads/${load}`)).sheet.load.who;

/**
 * An open load that is not split and that two drivers with the right trailer can take, the best one overall, and the plan.
 * @param idle Whether the best one has no trip under way or ahead.
 */
export async function assignable(page: Page, idle = false) {
  const board = await plan(page);
  const whole = board.open.filter((l) => board.open.filter((o) => o.loadId === l.loadId).length === 1);
  for (const leg of whole.filter((l) => l.leg === 1)) {
    const { drivers } = await get<{ drivers?: { driverId: number; name: string; blocked: string | null }[] }>(
      page,
      `loads/${leg.loadId}/choices`,
    );
    const able = (drivers ?? []).filter(
      (d) => !d.blocked && board.drivers.find((b) => b.id === d.driverId)?.equipment === leg.equipment,
    );
    const busy = board.drivers.find((b) => b.id === able[0]?.driverId)?.trips.some((t) => !t.endedAt);
    if (able.length >= 2 && able[0] === drivers![0] && !(idle && busy)) return { leg, able, board };
  }
  throw new Error('nobody is free for any load');
}

/** Assigns an open load to the best driver on the plan, by keyboard. */
export async function assignBest(page: Page, idle = false) {
  const { leg, able, board } = await assignable(page, idle);
  await page.goto('/plan?days=7');
  await expect(page.getByRole('grid', { name: 'Plan by drivers' })).toBeVisible();
  const down = board.drivers.length + board.open.findIndex((l) => l.legId === leg.legId) + 1;
  for (let i = 0; i < down; i++) await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  const change = page.getByRole('region', { name: 'Change of the plan' });
  await expect(change).toContainText(`${leg.load} to ${able[0].name}`);
  await expect(change).toContainText(/empty miles/);
  await page.keyboard.press('Enter');
  await expect(message(page, `${leg.load} assigned to ${able[0].name}`)).toBeVisible();
  return leg;
}

/** Unassigns a trip on the open plan, so that others find its load open again. */
export async function unassign(page: Page, number: string) {
  await page.getByRole('button', { name: new RegExp(`^Trip ${number}\\b`) }).click();
  await page.keyboard.press('u');
  const change = page.getByRole('region', { name: 'Change of the plan' });
  await change.getByRole('button', { name: /^(Unassign|Change anyway)/ }).click();
  await expect(message(page, `Trip ${number} dissolved`)).toBeVisible();
}
