import type { Typed } from './typed';

/** Labels of a load's parts, for reporting what someone changed. */
export const partLabels: Record<keyof Typed, string> = {
  customer: 'the customer',
  billTo: 'whom it is billed to',
  terms: 'the freight terms',
  reference: 'the reference',
  equipment: 'the equipment',
  features: 'what the trailer must have',
  cod: 'the cash on delivery',
  office: 'the office',
  number: 'the number',
  forDriver: 'the driver instructions',
  forCarrier: 'the carrier instructions',
  stops: 'the stops',
  freight: 'the freight',
  charges: 'the charges',
  references: 'the references',
  own: 'the custom fields',
};

/** Equality that ignores row keys. */
const same = (a: unknown, b: unknown) => {
  const plain = (x: unknown) =>
    JSON.stringify(x, (k, v: unknown) =>
      k === 'key'
        ? undefined
        : k === 'place' || k === 'customer' || k === 'billTo'
          ? (v as { id: number } | null)?.id
          : v,
    );
  return plain(a) === plain(b);
};

/** The parts that differ between two states of a load. */
export const differing = (a: Typed, b: Typed) =>
  (Object.keys(partLabels) as (keyof Typed)[]).filter((part) => !same(a[part], b[part]));

/**
 * A three-way merge of a load: parts I did not touch are theirs, what I typed stays mine.
 * `both` are the parts that both of us changed differently.
 */
export function merged(base: Typed, mine: Typed, theirs: Typed): { typed: Typed; both: (keyof Typed)[] } {
  const touched = differing(base, mine);
  const typed = { ...theirs, ...Object.fromEntries(touched.map((part) => [part, mine[part]])) } as Typed;
  return { typed, both: touched.filter((p) => !same(base[p], theirs[p]) && !same(mine[p], theirs[p])) };
}
