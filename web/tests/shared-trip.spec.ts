import { expect, type Page } from '@playwright/test';
import { as, message, test } from './business';

/** Something the API answers. */
const get = async (page: Page, path: string) => (await page.request.get(`/api/${path}`)).json();

/** The demo's trip with several loads, and an open load that would ride along. */
async function shared(page: Page) {
  const rows = (await get(page, 'loads?view=open&limit=500')).rows as { load: { id: number; reference: string } }[];
  for (const { load } of rows.filter((r) => r.load.reference?.startsWith('LTL'))) {
    const offers = (await get(page, `loads/${load.id}/trips`)) as {
      tripId: number;
      load: string;
      trip: string;
      late: string[];
    }[];
    const offer = offers.find((o) => o.late.length === 0);
    if (offer) return { ...offer, load: load.id };
  }
  throw new Error('no load rides along');
}

test('a load is added to a trip by keyboard, its visits reordered with the cost shown first, and it is removed again', async ({
  browser,
}) => {
  const page = await as(browser, 'ines');
  const offer = await shared(page);
  const { trip, tripId } = offer;
  const number = ((await get(page, `loads/${offer.load}`)) as { sheet: { load: { number: string } } }).sheet.load
    .number;

  // From the load: the trips it would ride on, with what each adds.
  await page.goto(`/load/${offer.load}`);
  await expect(page.getByRole('tab', { name: 'Our drivers' })).toBeVisible();
  await page.keyboard.press('t');
  await expect(page.getByRole('tab', { name: 'Add to a trip' })).toHaveAttribute('aria-selected', 'true');
  const add = page.getByRole('button', { name: `Add to trip ${trip}` });
  await add.focus();
  await page.keyboard.press('Enter');
  await expect(message(page, `${number} added to trip ${trip}`)).toBeVisible();
  await expect(page.getByText(new RegExp(`trip ${trip} with `)).first()).toBeVisible();

  // On the trip: what is on board after every visit never exceeds the trailer.
  await page.goto(`/trip/${tripId}`);
  const visits = page.getByRole('list', { name: `Visits of trip ${trip}` }).getByRole('listitem');
  await expect(visits.filter({ hasText: number })).toHaveCount(2);
  await expect(visits.last()).toContainText('empty');
  const before = await visits.allInnerTexts();

  // Alt with an arrow shows another order with what it costs; Escape keeps the old one.
  const last = visits.last().getByRole('button', { name: /^\d+\. deliver/ });
  await last.focus();
  await page.keyboard.press('Alt+ArrowUp');
  const change = page.getByRole('group', { name: 'New order' });
  await expect(change).toContainText(/New order: /);
  await page.keyboard.press('Escape');
  await expect(change).toBeHidden();
  expect(await visits.allInnerTexts()).toEqual(before);

  // A delivery cannot go before its pickup.
  const pickup = visits
    .filter({ hasText: number })
    .first()
    .getByRole('button', { name: /^\d+\. pick up/ });
  const deliver = visits
    .filter({ hasText: number })
    .last()
    .getByRole('button', { name: /^\d+\. deliver/ });
  const steps = (await visits.allInnerTexts()).length;
  await deliver.focus();
  for (let i = 0; i < steps && !(await page.getByText(/choose another place/).isVisible()); i++) {
    await page.keyboard.press('Alt+ArrowUp');
    await page.waitForTimeout(400);
  }
  await expect(page.getByText(/choose another place/)).toBeVisible();
  await expect(pickup).toBeVisible();
  await page.reload();

  // Saved, and undone.
  const freight = visits.filter({ has: page.getByRole('link') });
  const one = await freight.first().getByRole('link').innerText();
  await freight
    .first()
    .getByRole('button', { name: /^\d+\. / })
    .focus();
  await page.keyboard.press('Alt+ArrowDown');
  await expect(change.or(page.getByText(/choose another place/))).toBeVisible();
  if (await change.isVisible()) {
    await page.getByRole('button', { name: /^Save/ }).click();
    await expect(message(page, `Order of trip ${trip} changed`)).toBeVisible();
    await page.getByRole('button', { name: 'Undo' }).first().click();
    await expect(freight.first().getByRole('link')).toHaveText(one);
  }

  // Off the trip again: it is open.
  await page.getByRole('button', { name: `Remove ${number} from the trip` }).click();
  await expect(message(page, `${number} removed from trip ${trip}`)).toBeVisible();
  await expect(visits.filter({ hasText: number })).toHaveCount(0);
  await expect(page.getByRole('button', { name: `Add ${number} to the trip` })).toBeVisible();
});
