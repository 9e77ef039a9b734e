import { loadTable } from '../../load-table.js';

/** Syntax that cannot be compiled to older syntax. */
export type LastingFeature =
  | 'modules'
  | 'top-level await'
  | 'bigint'
  | 'import()'
  | 'import.meta'
  | 'export namespace'
  | 'import attributes'
  | 'look-behind'
  | 'named group'
  | 'unicode property'
  | 'modifier'
  | 'flag y'
  | 'flag u'
  | 'flag s'
  | 'flag d'
  | 'flag v';

/** The first version of each browser that knows something. */
export type FirstVersions = Readonly<Record<string, string>>;

interface SyntaxLevels {
  /** For each year of the language, the browsers that know its syntax in full. */
  readonly levels: Readonly<Record<string, FirstVersions>>;
  readonly lasting: Readonly<Record<LastingFeature, FirstVersions>>;
}

const table: SyntaxLevels = loadTable(new URL('./levels.json', import.meta.url));

export const { levels: syntaxLevels, lasting: lastingSyntax } = table;
