import { loadTable } from '../../load-table.js';

/** Spans of versions of browsers, from one on up to and not including another one. */
export type BrowserSpans = Readonly<Record<string, readonly (readonly [from: string, to: string | null])[]>>;

/** For each other spelling of a name, the browsers that know it and not the standard one. */
export type Needs = Readonly<Record<string, BrowserSpans>>;

/** The alternative names in the browser compatibility data, compiled by `npm run tables`. */
export interface PrefixTable {
  /** Version of the data. */
  readonly data: string;
  readonly properties: Readonly<Record<string, Needs>>;
  readonly values: Readonly<Record<string, Readonly<Record<string, Needs>>>>;
  readonly functions: Readonly<Record<string, Needs>>;
  readonly atRules: Readonly<Record<string, Needs>>;
  readonly selectors: Readonly<Record<string, Needs>>;
  /** Alternatives that are not merely another name but another syntax. */
  readonly ways: Readonly<Record<string, Needs>>;
}

export const prefixTable: PrefixTable = loadTable('table.json', import.meta.url);
