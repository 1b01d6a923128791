/** The choices of a select, from a list of labels by value. */
export const options = (labels: Record<string, string>) =>
  Object.entries(labels).map(([value, label]) => ({ value, label }));

/** A number with its word, such as 1 load or 3 loads. */
export const counted = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`;
