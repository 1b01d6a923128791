import type { Schemas } from '$lib/api/client';

/** Sizes and weights of a truck or trailer, as typed. */
export type Figures = Record<'lengthIn' | 'widthIn' | 'heightIn' | 'payloadLb' | 'tareLb', string>;

export const figuresOf = (trailer?: Schemas['TrailerRow'], truck?: Schemas['TruckRow']): Figures => {
  const typed = (n?: number | null) => (n === null || n === undefined ? '' : String(n));
  return {
    lengthIn: typed(trailer?.lengthIn),
    widthIn: typed(trailer?.widthIn),
    heightIn: typed(trailer?.heightIn),
    payloadLb: typed(trailer?.payloadLb),
    tareLb: typed(trailer?.tareLb ?? truck?.tareLb),
  };
};
