/** A number with its word, such as 1 load or 3 loads. */
export const counted = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`;
