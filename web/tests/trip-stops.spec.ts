import { expect, type Page } from '@playwright/test';
import { as, message, pick, select, test } from './business';
import { assignBest, get } from './plan';

/** The page of a trip with one load that begins later. */
async function tripPage(page: Page, idle = false) {
  const leg = await assignBest(page, idle);
  const { sheet } = await get<{ sheet: { load: { tripId: number } } }>(page, `loads/${leg.loadId}`);
  await page.goto(`/trip/${sheet.load.tripId}`);
  await expect(page.getByRole('heading', { name: /^Trip \d+/ })).toBeVisible();
}
/** Others find the load open again. */
async function dissolve(page: Page) {
  await page.getByRole('button', { name: 'Dissolve trip' }).click();
  await page
    .getByRole('group', { name: 'Dissolve trip' })
    .getByRole('button', { name: /^Dissolve trip/ })
    .click();
  await expect(message(page, /dissolved/)).toBeVisible();
}

test('a fuel stop is added to a trip, recorded, undone and removed', async ({ browser }) => {
  const page = await as(browser, 'ines');
  await tripPage(page);
  const visits = page.getByRole('list', { name: /^Visits of trip/ }).getByRole('listitem');
  const before = await visits.count();
  await page.getByRole('button', { name: 'Add a stop' }).click();
  const form = page.getByRole('group', { name: /^Add a stop to trip/ });
  await pick(page, 'Where', 'Missoula');
  await form.getByLabel('Minutes').fill('999999');
  await page.keyboard.press('Control+Enter');
  await expect(form.getByText('must be between 0 and 1,440')).toBeVisible();
  await form.getByLabel('Minutes').fill('40');
  await page.keyboard.press('Control+Enter');
  const anyway = page.getByRole('button', { name: 'Add stop anyway' });
  await expect(visits.nth(before).or(anyway)).toBeVisible();
  if (await anyway.isVisible()) await anyway.click();
  await expect(visits).toHaveCount(before + 1);
  const stop = visits.filter({ hasText: 'fuel' });
  await expect(stop).toContainText('40 min');

  await stop.getByRole('button', { name: 'Arrived' }).click();
  await expect(message(page, 'arrived in')).toBeVisible();
  await expect(stop).toContainText('arrived');
  await stop.getByRole('button', { name: 'Undo' }).click();
  await stop.getByRole('button', { name: 'Remove' }).click();
  await expect(visits).toHaveCount(before);
  await expect(page.getByText('Route', { exact: true })).toBeVisible();
  await dissolve(page);
});

test('a trailer that was seen elsewhere is hooked there first', async ({ browser }) => {
  const page = await as(browser, 'ines');
  // One that another trip has before will be elsewhere by then.
  await tripPage(page, true);
  const trip = page.url();
  const trailer = /trailer (\d+)/.exec((await page.getByText(/^truck \d+ · trailer \d+/).textContent()) ?? '')![1];
  await page.goto('/plan');
  await page.getByRole('button', { name: /^Trailers/ }).click();
  const row = page.getByRole('row').filter({ hasText: `Trailer ${trailer}` });
  await row.getByRole('button', { name: `Trailer ${trailer}` }).click();
  const form = page.getByRole('form', { name: `Location of Trailer ${trailer}` });
  await form.getByRole('button', { name: 'Set location' }).click();
  await expect(form.getByText('Choose where it is')).toBeVisible();
  await pick(page, 'Where it is', 'Bozeman MT');
  await form.getByRole('button', { name: 'Set location' }).click();
  await expect(message(page, `Trailer ${trailer} in Bozeman MT`)).toBeVisible();
  await expect(row).toContainText('Bozeman MT');

  await page.goto(trip);
  await expect(
    page.getByText(new RegExp(`Trailer ${trailer} was in Bozeman MT .*add a stop to hook it`)),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Add a stop' }).click();
  const stop = page.getByRole('group', { name: /^Add a stop to trip/ });
  await expect(stop.getByLabel('Stop', { exact: true })).toContainText('Hook trailer');
  await expect(stop.getByLabel('Trailer', { exact: true })).toContainText(trailer);
  await pick(page, 'Where', 'Helena MT');
  await page.getByRole('button', { name: 'Add stop' }).click();
  await expect(stop.getByText(`Trailer ${trailer} is not in Helena MT: it was in Bozeman MT`)).toBeVisible();
  await stop.getByLabel(/^Where/).fill('');
  await page.getByRole('button', { name: /^Add stop/ }).click();
  const first = page
    .getByRole('list', { name: /^Visits of trip/ })
    .getByRole('listitem')
    .first();
  const anyway = page.getByRole('button', { name: 'Add stop anyway' });
  await expect(first.getByText(`hook trailer ${trailer}`).or(anyway)).toBeVisible();
  if (await anyway.isVisible()) await anyway.click();
  await expect(first).toContainText(`Bozeman MT hook trailer ${trailer}`);
  await expect(page.getByText('add a stop to hook it')).toBeHidden();
  await dissolve(page);
});

test('a trip drops its trailer and goes on with another one', async ({ browser }) => {
  const page = await as(browser, 'ines');
  await tripPage(page, true);
  const crew = page.getByText(/^truck \d+ · trailer/);
  const own = /trailer (\d+)/.exec((await crew.textContent())!)![1];
  const visits = page.getByRole('list', { name: /^Visits of trip/ }).getByRole('listitem');
  const before = await visits.count();
  const last = (await visits.last().locator('[data-visit]').textContent())!;
  const { trailers } = await get<{ trailers: { unit: string; source: string; trip: string | null }[] }>(
    page,
    'fleet/locations',
  );
  const { drivers } = await get<{ drivers: { trips: { trailers: { trailerId: number }[] }[] }[] }>(
    page,
    'plan?days=14',
  );
  const fleet = await get<{ trailers: { id: number; unit: string; lengthIn: number | null }[] }>(page, 'fleet');
  const used = drivers.flatMap((d) => d.trips.flatMap((t) => t.trailers.map((x) => x.trailerId)));
  const other = fleet.trailers.find(
    (t) =>
      !used.includes(t.id) && t.lengthIn === null && trailers.some((s) => s.unit === t.unit && s.source === 'person'),
  )!.unit;

  const form = page.getByRole('group', { name: /^Add a stop to trip/ });
  const add = async () => {
    await page.keyboard.press('Control+Enter');
    const anyway = page.getByRole('button', { name: 'Add stop anyway' });
    await expect(form.or(anyway)).toBeVisible();
    if (await anyway.isVisible().catch(() => false)) await anyway.click();
  };
  // Two long trailers cannot be pulled at a time.
  await page.getByRole('button', { name: 'Add a stop' }).click();
  await select(form, 'Stop', 'Hook trailer');
  await select(form, 'Trailer', new RegExp(`^${other},`));
  await add();
  await expect(page.getByText('in doubles each trailer may be up to 28 ft 6 in without a permit')).toBeVisible();

  await select(form, 'Stop', 'Drop trailer');
  await expect(form.getByLabel('Trailer', { exact: true })).toContainText(own);
  await pick(page, 'Where', last);
  await page.keyboard.press('Control+Enter');
  await expect(visits).toHaveCount(before + 1);
  await page.getByRole('button', { name: 'Add a stop' }).click();
  await select(form, 'Stop', 'Hook trailer');
  await select(form, 'Trailer', new RegExp(`^${other},`));
  await page.keyboard.press('Control+Enter');
  await expect(visits).toHaveCount(before + 2);
  await expect(visits.last()).toContainText(`hook trailer ${other}`);
  await expect(crew).toContainText(`trailers ${own} and ${other}`);

  // The plan has the trip in the lines of both.
  const trip = page.url();
  await page.goto('/plan?by=trailers&days=14');
  for (const unit of [own, other])
    await expect(
      page
        .getByRole('row')
        .filter({ hasText: `Trailer ${unit}` })
        .getByRole('button', { name: /^Trip \d+/ })
        .last(),
    ).toBeVisible();
  await page.goto(trip);
  await visits.last().getByRole('button', { name: 'Remove' }).click();
  await expect(crew).toHaveText(new RegExp(`trailer ${own}\\b(?! and)`));
  await dissolve(page);
});

test('two pups have a load each, and one cannot take both', async ({ browser }) => {
  const page = await as(browser, 'ines');
  const { drivers } = await get<{
    drivers: { trips: { id: number; trailers: { trailerId: number }[] }[] }[];
  }>(page, 'plan?days=14');
  const { trailers } = await get<{ trailers: { id: number; unit: string }[] }>(page, 'fleet');
  const pups = trailers.filter((t) => ['2801', '2802'].includes(t.unit)).map((t) => t.id);
  const trip = drivers
    .flatMap((d) => d.trips)
    .find((t) => t.trailers.length === 2 && t.trailers.every((x) => pups.includes(x.trailerId)))!;
  await page.goto(`/trip/${trip.id}`);
  await expect(page.getByText('trailers 2801 and 2802').first()).toBeVisible();
  const visits = page.getByRole('list', { name: /^Visits of trip/ }).getByRole('listitem');
  await expect(visits.filter({ hasText: /2801\s*19,600 lb/ }).filter({ hasText: /2802\s*16,900 lb/ })).not.toHaveCount(
    0,
  );
  await page.getByRole('button', { name: /^Move \d+ to trailer 2801/ }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'lb more than trailer 2801 may carry' })).toBeVisible();
  await visits.filter({ hasText: 'hook trailer 2802' }).getByRole('button', { name: 'Remove' }).click();
  await expect(page.getByText(/is assigned to trailer 2802, which is not hooked/).first()).toBeVisible();
});

test('a co-driver is put on a trip with a share of the work, and taken off', async ({ browser }) => {
  const page = await as(browser, 'ines');
  const free = (
    await get<{ drivers: { name: string; off: unknown[]; trips: { endedAt: string | null }[] }[] }>(
      page,
      'plan?days=14',
    )
  ).drivers.filter((d) => d.off.length === 0 && d.trips.every((t) => t.endedAt));
  await tripPage(page);
  const trip = page.url();
  const driver = (await page.getByRole('heading', { name: /^Trip \d+/ }).textContent())!;
  const codriver = free.map((d) => d.name).find((name) => !driver.includes(name))!;
  await page.getByRole('button', { name: 'Add co-driver' }).click();
  const form = page.getByRole('group', { name: /^Co-driver of trip/ });
  await select(form, 'Co-driver', codriver);
  await form.getByLabel('Share of the work').fill('140');
  await page.keyboard.press('Control+Enter');
  await expect(form.getByText('The share is a percentage from 0 to 100')).toBeVisible();
  await form.getByLabel('Share of the work').fill('40');
  await page.keyboard.press('Control+Enter');
  await expect(message(page, `${codriver} is the co-driver of`)).toBeVisible();
  await expect(page.getByRole('list', { name: 'Drivers' }).getByRole('listitem').nth(1)).toContainText(
    `${codriver} co-driver, 40% of the work`,
  );

  await page.goto('/plan?days=14');
  const row = page.getByRole('row').filter({ has: page.getByRole('button', { name: codriver, exact: true }) });
  await expect(row.getByRole('button', { name: /^Trip \d+ with / })).toBeVisible();

  await page.goto(trip);
  await page.getByRole('button', { name: 'Change co-driver' }).click();
  await select(form, 'Co-driver', /^None: /);
  await page.getByRole('button', { name: 'Take co-driver off' }).click();
  await expect(message(page, 'drives alone')).toBeVisible();
  await expect(page.getByRole('list', { name: 'Drivers' })).toHaveCount(0);
  await dissolve(page);
});

test('an empty trailer is moved by keyboard, and the move is undone', async ({ browser }) => {
  const page = await as(browser, 'ines');
  const { trailers } = await get<{ trailers: { unit: string; source: string; where: string }[] }>(
    page,
    'fleet/locations',
  );
  const standing = trailers.filter((t) => t.source === 'person');
  const moved = (await get<{ open: { load: string; customer: string | null }[] }>(page, 'plan?days=7')).open;
  const trailer = standing.find((t) => !moved.some((l) => l.customer?.endsWith(t.unit)))!;
  await page.goto('/plan?days=7');
  await expect(page.getByRole('grid', { name: 'Plan by drivers' })).toBeVisible();
  await page.keyboard.press('n');
  const form = page.getByRole('group', { name: 'New move' });
  await select(page, 'Trailer to move', new RegExp(`^Trailer ${trailer.unit},`));
  await expect(form.getByText(trailer.where)).toBeVisible();
  await pick(page, 'To', 'Dillon MT');
  await page.keyboard.press('Control+Enter');
  await expect(form.getByText('Enter from when the move can begin')).toBeVisible();
  await form.getByLabel('Ready from').fill('+3d 0800');
  await form.getByLabel('There by').fill('+4d 1800');
  await page.keyboard.press('Control+Enter');
  await expect(message(page, /Move \d+ is booked/)).toBeVisible();
  const row = page.getByRole('row').filter({ hasText: 'to Dillon MT' });
  await expect(row).toBeVisible();
  await row.getByRole('button').first().click();
  await page.keyboard.press('o');
  await expect(page.getByRole('heading', { name: `Move of trailer ${trailer.unit}` })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).first().click();
  await expect(row).toHaveCount(0);
});
