import { loadTable } from '../../load-table.js';

/** The value definitions of the CSS specifications, compiled by `npm run tables`. */
export interface Definitions {
  readonly properties: Readonly<Record<string, string>>;
  readonly types: Readonly<Record<string, string>>;
}

export const definitions: Definitions = loadTable(new URL('./definitions.json', import.meta.url));
