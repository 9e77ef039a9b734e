import { createRequire } from 'node:module';
import type * as library from 'yaml';
import type { Document, Node, Pair, Alias } from 'yaml';
import { diagnostic, DiagnosticError, type Place } from '../diagnostics/index.js';
import { conflictDiagnostic } from '../files/merge-conflict.js';
import { yamlProblems } from './yaml-problems.js';

// Loaded only when a project file is parsed; a cached one needs no parser.
const require = createRequire(import.meta.url);
let loaded: typeof library | undefined;
const yaml = (): typeof library => (loaded ??= require('yaml') as typeof library);

/** The path of a value in the project file: keys of maps and indices of lists. */
export type SettingPath = readonly (string | number)[];

/** The maximum number of values that all aliases together may expand to. */
const unfoldingLimit = 10_000;

/** A parsed project file that maps each value to its position. */
export class ProjectDocument {
  #parsed: Document.Parsed | undefined;

  private constructor(
    readonly file: string,
    readonly text: string,
  ) {}

  /**
   * Parses YAML 1.2.
   *
   * @param file the name of the file in diagnostics
   * @param text its content
   * @throws DiagnosticError with every syntax error, duplicate key, tag, and alias that expands to too much
   */
  static parse(file: string, text: string): ProjectDocument {
    const conflict = conflictDiagnostic(text, file);
    if (conflict) throw new DiagnosticError(conflict);
    const parsed = new ProjectDocument(file, text);
    const problems = yamlProblems(yaml(), parsed.#document, file, text);
    if (problems.length > 0) throw new DiagnosticError(...problems);
    checkAliases(parsed.#document, file, text);
    return parsed;
  }

  /** A valid text, which is parsed only when a location in it is requested. */
  static known(file: string, text: string): ProjectDocument {
    return new ProjectDocument(file, text);
  }

  get #document(): Document.Parsed {
    const options = { lineCounter: new (yaml().LineCounter)(), prettyErrors: false, logLevel: 'error' } as const;
    this.#parsed ??= yaml().parseDocument(this.text, options);
    return this.#parsed;
  }

  /** The document as plain values. */
  value(): unknown {
    return this.#document.toJS({ maxAliasCount: -1 });
  }

  /** The location of the value at a path, or of the nearest enclosing value that exists in the file. */
  place(path: SettingPath): Place {
    return this.#placeOf(this.#follow(path).value);
  }

  /** The location of the key at a path; for an item of a list, that of the item. */
  /** Reports whether a setting is written in the file. */
  has(path: SettingPath): boolean {
    const inner = (value: unknown, key: string | number): unknown =>
      typeof value === 'object' && value !== null ? (value as Record<string | number, unknown>)[key] : undefined;
    return path.reduce(inner, this.value()) !== undefined;
  }

  placeOfKey(path: SettingPath): Place {
    const { pair, value } = this.#follow(path);
    return this.#placeOf(pair && yaml().isNode(pair.key) ? pair.key : value);
  }

  #placeOf(node: Node | null | undefined): Place {
    const [start, end] = node?.range ?? [0, 0];
    const trimmed = this.text.slice(start, end).trimEnd().length;
    return { file: this.file, text: this.text, offsets: [start, start + trimmed] };
  }

  #follow(path: SettingPath): { pair?: Pair; value: Node | null } {
    let node: Node | null = this.#document.contents;
    let pair: Pair | undefined;
    for (const part of path) {
      const here: Node | null | undefined = yaml().isAlias(node) ? node.resolve(this.#document) : node;
      if (yaml().isMap(here)) {
        const found = here.items.find(
          (item) => yaml().isPair(item) && yaml().isScalar(item.key) && String(item.key.value) === String(part),
        );
        if (!found) break;
        pair = found;
        node = yaml().isNode(found.value) && found.value.range ? found.value : (found.key as Node);
      } else if (yaml().isSeq(here)) {
        const item: unknown = here.items[Number(part)];
        if (!yaml().isNode(item)) break;
        pair = undefined;
        node = item;
      } else break;
    }
    return { ...(pair && { pair }), value: node };
  }
}

/** Counts what aliases unfold to before anything is unfolded, so that a few lines cannot fill the memory. */
function checkAliases(document: Document.Parsed, file: string, text: string): void {
  const sizes = new Map<Node, number>();
  const sizeOf = (node: unknown, open: ReadonlySet<unknown>): number => {
    if (!yaml().isNode(node) || open.has(node)) return open.has(node) ? Infinity : 1;
    const known = sizes.get(node);
    if (known !== undefined) return known;
    const inside = new Set(open).add(node);
    let size = 1;
    if (yaml().isAlias(node)) size = sizeOf(targetOf(node, document), inside);
    else if (yaml().isMap(node)) for (const pair of node.items) size += sizeOf(pair.value, inside);
    else if (yaml().isSeq(node)) for (const item of node.items) size += sizeOf(item, inside);
    sizes.set(node, size);
    return size;
  };
  let total = 0;
  yaml().visit(document, {
    Alias(_, alias) {
      const place: Place = { file, text, offsets: [alias.range?.[0] ?? 0, alias.range?.[1] ?? 0] };
      if (!targetOf(alias, document))
        throw new DiagnosticError(diagnostic('yaml-alias-unknown', { name: alias.source }, place));
      total += sizeOf(alias, new Set());
      if (total > unfoldingLimit)
        throw new DiagnosticError(diagnostic('yaml-alias-bomb', { name: alias.source }, place));
    },
  });
}

const targets = new WeakMap<Alias, Node | undefined>();

function targetOf(alias: Alias, document: Document.Parsed): Node | undefined {
  if (!targets.has(alias)) targets.set(alias, alias.resolve(document));
  return targets.get(alias);
}
