import { loadTable } from '../../load-table.js';

/** Version ranges of browsers: from one version on, up to and not including another one. */
export type BrowserSpans = Readonly<Record<string, readonly (readonly [from: string, to: string | null])[]>>;

/** By alternative name, the browsers that support it and not the standard name. */
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
  /** Alternatives that are not only another name but another syntax. */
  readonly ways: Readonly<Record<string, Needs>>;
}

export const prefixTable: PrefixTable = loadTable(new URL('./table.json', import.meta.url));
