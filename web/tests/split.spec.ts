import { expect } from '@playwright/test';
import { as, book, message, pick, select, test } from './business';

test('a load is split at any town, each leg gets its driver, and the trailer that stands there is seen until it is hooked', async ({
  browser,
}) => {
  const page = await as(browser, 'dana');
  const { token } = await (await page.request.get('/api/session')).json();
  const trailer = `S-${Date.now() % 100_000}`;
  await page.request.post('/api/trailers', {
    data: { unit: trailer, equipment: 'reefer' },
    headers: { 'X-Lark-Token': token },
  });
  const number = await book(page, '+0d 2200', '+3d 1700', '1900');
  const load = (
    (await (await page.request.get('/api/loads?view=open&limit=500')).json()).rows as {
      load: { id: number; number: string };
    }[]
  ).find((l) => l.load.number === number)!.load;
  await page.goto(`/load/${load.id}`);
  await page.getByRole('button', { name: 'Split', exact: true }).click();
  const form = page.getByRole('group', { name: `Split ${number}` });
  await page.keyboard.press('Control+Enter');
  await expect(form.getByText('Choose where the freight changes trucks: a place or a town.')).toBeVisible();
  await pick(page, 'Transfer point', 'Drummond MT');
  await form.getByLabel('Next truck takes it').fill('+9d 0800');
  await page.keyboard.press('Control+Enter');
  await expect(form.getByText(/The freight is due in Spokane WA by .*: enter an earlier time\./)).toBeVisible();
  await form.getByLabel('Next truck takes it').fill('+1d 1600');
  await page.keyboard.press('Control+Enter');
  await expect(message(page, new RegExp(`${number} split in Drummond MT, trailer dropped`))).toBeVisible();
  await expect(page.getByText('drop trailer, Drummond MT · next leg not covered')).toBeVisible();

  // The first leg, then the second: the panel says which one it is about.
  const panel = page.getByRole('region', { name: 'Cover this load' });
  const take = async (leg: string, dropped = false) => {
    await expect(panel.getByText(`Leg ${leg}`)).toBeVisible();
    const choices = (await (await page.request.get(`/api/loads/${load.id}/choices`)).json()) as {
      drivers: { name: string; blocked: string | null; commitments: unknown[] }[];
    };
    const idle = choices.drivers.find((d) => !d.blocked && d.commitments.length === 0)!;
    await panel.getByRole('button', { name: /^Show all/ }).click();
    await panel.getByRole('button', { name: new RegExp(`^${idle.name}`) }).click();
    if (!dropped) await select(panel, 'Trailer', trailer);
    // The one that was dropped is the one to hook.
    await expect(panel.getByLabel('Trailer')).toHaveText(trailer);
    await panel.getByRole('button', { name: /^Assign to/ }).click();
    await expect(message(page, new RegExp(`${number} assigned to`))).toBeVisible();
  };
  await take('Great Falls MT → Drummond MT');
  await page.goto(`/cover?load=${load.id}`);
  await expect(page.getByRole('button', { name: `${number} Drummond MT → Spokane WA` })).toBeVisible();

  // Dropped before anyone has the rest: it stands there and must be covered.
  await page.goto(`/load/${load.id}`);
  for (const what of ['At stop now', 'Left loaded', 'Trailer dropped']) {
    await page.getByRole('button', { name: what }).click();
    await expect(page.getByRole('button', { name: what })).toHaveCount(0);
  }
  await expect(page.getByText(/loaded trailer stands here since/)).toBeVisible();
  await page.goto(`/cover?load=${load.id}`);
  const row = page.getByRole('button', { name: `${number} Drummond MT → Spokane WA` });
  await expect(row).toContainText('waiting');
  await take('Drummond MT → Spokane WA', true);
  await expect(row).toHaveCount(0);

  await page.goto(`/load/${load.id}`);
  await page.getByRole('button', { name: 'Trailer hooked' }).click();
  await expect(message(page, new RegExp(`took ${number} in Drummond`))).toBeVisible();
  await page.getByRole('button', { name: 'Undo the last update here' }).click();
  await expect(page.getByText(/loaded trailer stands here since/)).toBeVisible();
  await page.getByRole('button', { name: 'Trailer hooked' }).click();
  await page.getByRole('button', { name: 'Delivered', exact: true }).click();
  await expect(page.getByText('delivered · reefer').first()).toBeVisible();
});

test('a split is moved and joined again', async ({ browser }) => {
  const page = await as(browser, 'dana');
  const number = await book(page, '+2d 0600', '+5d 1700', '1700');
  const rows = (await (await page.request.get('/api/loads?view=open&limit=500')).json()).rows as {
    load: { id: number; number: string };
  }[];
  await page.goto(`/load/${rows.find((l) => l.load.number === number)!.load.id}`);
  await page.getByRole('button', { name: 'Split', exact: true }).click();
  await pick(page, 'Transfer point', 'Missoula MT');
  await page.getByLabel('Next truck takes it').fill('+3d 0800');
  await page.keyboard.press('Control+Enter');
  await expect(page.getByText('drop trailer, Missoula MT · next leg not covered')).toBeVisible();
  await page.getByRole('button', { name: 'Change', exact: true }).first().click();
  await pick(page, 'Transfer point', 'Drummond MT');
  await page.keyboard.press('Control+Enter');
  await expect(message(page, /moved from Missoula MT to Drummond MT/)).toBeVisible();
  await page.getByRole('button', { name: 'Join legs' }).click();
  await expect(message(page, new RegExp(`Legs of ${number} joined`))).toBeVisible();
  await expect(page.getByText('next leg not covered')).toHaveCount(0);
});
