import type { Schemas } from '$lib/api/client';
import { number } from '../loads/form/request';

/** A trailer's compartments or decks, as typed. */
export interface Layout {
  compartments: string[];
  unit: 'gallons' | 'liters';
  decks: Record<'name' | 'lengthIn' | 'heightIn' | 'payloadLb', string>[];
}

export const deckOf = (d: Schemas['TrailerDeck']): Layout['decks'][number] => ({
  name: d.name,
  lengthIn: String(d.lengthIn),
  heightIn: String(d.heightIn),
  payloadLb: String(d.payloadLb),
});

export const layoutOf = (trailer?: Schemas['TrailerRow']): Layout => ({
  compartments: (trailer?.layout?.compartments ?? []).map(String),
  unit: 'gallons',
  decks: (trailer?.layout?.decks ?? []).map(deckOf),
});

/** What is sent for a kind of trailer: compartments of a tanker, decks of a car hauler. Empty compartments at the end are left out. */
export function layoutRequest(layout: Layout, equipment: string) {
  const typed = layout.compartments.map((c) => c.trim());
  while (typed.length && !typed[typed.length - 1]) typed.pop();
  return {
    compartments: equipment === 'tanker' ? typed.map(number) : [],
    compartmentUnit: layout.unit,
    decks:
      equipment === 'car_hauler'
        ? layout.decks.map((d) => ({
            name: d.name,
            lengthIn: number(d.lengthIn),
            heightIn: number(d.heightIn),
            payloadLb: number(d.payloadLb),
          }))
        : [],
  };
}
