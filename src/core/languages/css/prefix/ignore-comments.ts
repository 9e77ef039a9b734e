import type { StyleComment } from '../parse.js';

/** A comment that excludes the next declaration or rule, or the whole file, from prefixing. */
const pattern = /^\s*anvil:\s*as written(,\s*whole file)?\s*$/i;

/** The parts of a sheet that comments exclude from prefixing. */
export class IgnoredParts {
  /** True if the whole sheet is excluded. */
  readonly all: boolean;
  readonly #starts = new Set<number>();

  constructor(text: string, comments: readonly StyleComment[]) {
    let all = false;
    for (const { start, end } of comments) {
      const [found, whole] = pattern.exec(text.slice(start + 2, end - 2)) ?? [];
      if (found === undefined) continue;
      if (whole !== undefined) all = true;
      else this.#starts.add(afterSpace(text, end));
    }
    this.all = all;
  }

  /** Reports whether the node at an offset is excluded. */
  has(start: number): boolean {
    return this.#starts.has(start);
  }
}

/** The offset after white space and comments. */
function afterSpace(text: string, from: number): number {
  const found = /(?:\s|\/\*[^]*?\*\/)*/y;
  found.lastIndex = from;
  found.exec(text);
  return found.lastIndex;
}
