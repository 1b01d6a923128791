let keys = 0;
/** A key for a line of a form, so that lines keep their fields when others are removed. */
export const nextKey = () => keys++;

/** A number as a field shows it. */
export const text = (n: number | null | undefined) => (n === null || n === undefined ? '' : String(n));
