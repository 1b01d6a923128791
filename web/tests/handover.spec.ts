import { expect } from '@playwright/test';
import { as, message, pick, test } from './business';

test('a carrier that breaks down is replaced on the way, and has the load again when that is undone', async ({
  browser,
}) => {
  const page = await as(browser, 'dana');
  const lines = (await (await page.request.get('/api/loads?view=moving&limit=500')).json()).rows as {
    load: { id: number; number: string; state: string; carrierId: number | null; who: string };
  }[];
  const load = lines.map((l) => l.load).findLast((l) => l.state === 'rolling' && l.carrierId)!;
  await page.goto(`/load/${load.id}`);
  await page.getByRole('button', { name: 'Replace carrier' }).click();
  const form = page.getByRole('group', { name: `Hand over ${load.number}` });

  // Nothing is handed to a carrier without a name, a truck and a rate.
  await page.keyboard.press('Control+Enter');
  await expect(form.getByText('Choose the handover location.')).toBeVisible();
  await expect(form.getByText('The truck number is required.')).toBeVisible();

  await pick(page, 'Handover location', 'Coldwater');
  await form.getByLabel(`Pay of ${load.who} for its part`).fill('310');
  const second = load.who === 'Two Forks Trucking' ? 'Oxbow' : 'Two Forks';
  await pick(page, 'Carrier', second);
  await form.getByLabel('Carrier pay').fill('640');
  await form.getByLabel('Accepted by phone, by').fill('Jo Ferro');
  await form.getByLabel('Carrier’s driver').fill('Lee Anders');
  await form.getByLabel('Driver’s phone').fill('208-555-0177');
  await form.getByLabel('Carrier’s truck').fill('44');
  await page.keyboard.press('Control+Enter');
  await expect(message(page, new RegExp(`${load.number} handed over from ${load.who} to ${second}`))).toBeVisible();
  await expect(page.getByText(/handed over in Missoula[^]*, paid 310\.00/)).toBeVisible();
  await expect(page.getByText(/Lee Anders, 208-555-0177, truck 44/).first()).toBeVisible();
  await expect(page.getByText('950.00').first()).toBeVisible();
  await expect(page.getByRole('button', { name: `Change pay of ${load.who}` })).toBeVisible();

  await page.getByRole('button', { name: 'undo handover' }).click();
  await expect(message(page, new RegExp(`${load.who} has it again at \\$`))).toBeVisible();
  await expect(page.getByText('Lee Anders')).toHaveCount(0);
});
