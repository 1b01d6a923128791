import { expect, it } from 'vitest';
import type { Schemas } from '$lib/api/client';
import { layoutOf, layoutRequest } from './layout';

it('sends compartments of a tanker, decks of a car hauler, and nothing of other trailers', () => {
  const layout = layoutOf({
    layout: { compartments: [1500, 1505.8], decks: [{ name: 'upper', lengthIn: 600, heightIn: 70, payloadLb: 14000 }] },
  } as unknown as Schemas['TrailerRow']);
  layout.compartments.push('', ' ');
  expect(layoutRequest(layout, 'tanker')).toEqual({
    compartments: [1500, 1505.8],
    compartmentUnit: 'gallons',
    decks: [],
  });
  expect(layoutRequest(layout, 'car_hauler').decks).toEqual([
    { name: 'upper', lengthIn: 600, heightIn: 70, payloadLb: 14000 },
  ]);
  expect(layoutRequest(layout, 'van')).toMatchObject({ compartments: [], decks: [] });
  // One that is empty in between is refused by the server, which names it.
  layout.compartments = ['1500', '', '900'];
  expect(layoutRequest(layout, 'tanker').compartments).toEqual([1500, null, 900]);
});
