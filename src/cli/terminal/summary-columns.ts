/** The columns after the name of a pipeline, with their widths in characters. */
const widths = { sources: 12, outputs: 14, result: 27, jobs: 15, time: 7, size: 8, gzip: 12 } as const;

export type SummaryColumn = keyof typeof widths;

/** Columns of numbers end at the same place. */
const rightAligned: ReadonlySet<SummaryColumn> = new Set(['time', 'size', 'gzip']);

/** What a narrow terminal does without, first of all. */
const expendable: readonly SummaryColumn[] = ['sources', 'outputs', 'gzip', 'jobs', 'size'];

const gap = '  ';

/** Lays out the rows of a summary, so that each fits a line of the terminal. */
export class SummaryColumns {
  readonly #nameWidth: number;
  readonly #shown: readonly SummaryColumn[];

  /**
   * @param names the first column of all rows
   * @param width that of the terminal, in characters
   */
  constructor(names: readonly string[], width: number) {
    this.#nameWidth = Math.max(0, ...names.map((name) => name.length));
    const all = Object.keys(widths) as SummaryColumn[];
    const total = (shown: readonly SummaryColumn[]): number =>
      shown.reduce((sum, one) => sum + gap.length + widths[one], this.#nameWidth);
    let shown: readonly SummaryColumn[] = all;
    for (const one of expendable) if (total(shown) > width) shown = shown.filter((other) => other !== one);
    this.#shown = shown;
  }

  /** A name in its column. */
  name(text: string): string {
    return text.padEnd(this.#nameWidth);
  }

  /** A cell in its column, or an empty text where that is not shown. */
  cell(column: SummaryColumn, text: string): string {
    if (!this.#shown.includes(column)) return '';
    const width = widths[column];
    return gap + (rightAligned.has(column) ? text.padStart(width) : text.padEnd(width));
  }
}

/** The longest of some texts that fits a column: the first are preferred. */
export const fitting = (column: SummaryColumn, texts: readonly string[]): string =>
  texts.find((text) => text.length <= widths[column]) ?? texts.at(-1)!;
