/** What one line of a grid shows: the head of a group, or the row at a position of the list. */
export type Line<G> = { group: G; index: number } | { row: number };

/** A group of rows as the server totals them, outer groups before their inner ones. */
export interface Grouped {
  values: unknown[];
  sums: { count: number };
}

/**
 * Where each line of a grid is. Without groups, lines are rows. With groups, each has a head, and the rows of an open innermost group
 * follow theirs; a closed outer group hides its inner ones.
 */
export class Layout<G extends Grouped> {
  /** The visible heads: the line of each, and for open innermost groups the position of the first row below it. */
  readonly #heads: { line: number; index: number; from: number; rows: number }[] = [];
  readonly length: number;

  constructor(
    readonly count: number,
    readonly groups: readonly G[],
    readonly isOpen: (group: G) => boolean,
  ) {
    if (groups.length === 0) {
      this.length = count;
      return;
    }
    const levels = Math.max(...groups.map((g) => g.values.length));
    let [line, from, outerOpen] = [0, 0, true];
    groups.forEach((group, index) => {
      const inner = group.values.length === levels;
      if (levels > 1 && !inner) outerOpen = isOpen(group);
      if (!inner || outerOpen) {
        const rows = inner && isOpen(group) ? group.sums.count : 0;
        this.#heads.push({ line, index, from, rows });
        line += 1 + rows;
      }
      if (inner) from += group.sums.count;
    });
    this.length = line;
  }

  /** What a line shows; undefined beyond the end. */
  at(line: number): Line<G> | undefined {
    if (line < 0 || line >= this.length) return undefined;
    if (this.groups.length === 0) return { row: line };
    let [low, high] = [0, this.#heads.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.#heads[middle].line <= line) low = middle;
      else high = middle - 1;
    }
    const head = this.#heads[low];
    return line === head.line
      ? { group: this.groups[head.index], index: head.index }
      : { row: head.from + line - head.line - 1 };
  }

  /** The positions of a group's rows: the first, and how many. */
  rowsOf(index: number): [number, number] {
    const levels = Math.max(...this.groups.map((g) => g.values.length));
    const from = this.groups
      .slice(0, index)
      .filter((g) => g.values.length === levels)
      .reduce((sum, g) => sum + g.sums.count, 0);
    return [from, this.groups[index].sums.count];
  }

  /** The positions of the rows that these lines show, as one span; null when they show none. */
  rowsIn(from: number, until: number): [number, number] | null {
    let span: [number, number] | null = null;
    for (let line = from; line < until; line++) {
      const here = this.at(line);
      if (here && 'row' in here) span = span ? [span[0], here.row + 1] : [here.row, here.row + 1];
    }
    return span;
  }
}
