import { loadTable } from '../../load-table.js';

export type Entries = Readonly<Record<string, number>>;

/** The first versions of browsers that know something without a prefix, compiled by `npm run tables`. */
export interface SupportTable {
  /** Version of the browser compatibility data. */
  readonly data: string;
  readonly browsers: readonly string[];
  /** A version for each of the browsers, or `-` for one that does not know it; the entries below point here. */
  readonly versions: readonly string[];
  readonly property: Entries;
  /** Keywords of a property, by the property. */
  readonly keyword: Readonly<Record<string, Entries>>;
  readonly selector: Entries;
  readonly unit: Entries;
  readonly function: Entries;
  /** Ways of writing that have no name of their own. */
  readonly notation: Entries;
}

export const supportTable: SupportTable = loadTable(new URL('./table.json', import.meta.url));
