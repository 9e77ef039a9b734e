import type { ImportConditions, ImportRule } from './import-rule.js';
import type { Range, SheetRecord } from './sheet-record.js';

/** A sheet with the sheets that it imports. */
export interface LinkedSheet {
  /** Its source, relative to the project. */
  readonly source: string;
  readonly record: SheetRecord;
  /** The sheets of its imports; those that are left to the page have none. */
  readonly targets: ReadonlyMap<ImportRule, LinkedSheet>;
}

/** A part of a linked file, in order. */
export type Part =
  /** The rules of a sheet, without those at its head. */
  | { readonly kind: 'body'; readonly sheet: LinkedSheet }
  /** A statement that sets the order of layers. */
  | { readonly kind: 'layers'; readonly sheet: LinkedSheet; readonly range: Range }
  | { readonly kind: 'block'; readonly conditions: ImportConditions; readonly parts: readonly Part[] }
  | RemainingImport;

/** An import that stays one: of a URL that is left to the page, or of another file. */
export interface RemainingImport {
  readonly kind: 'import';
  /** The file; undefined for a URL. */
  readonly file: SheetFile | undefined;
  /** The rule with its conditions, in the sheet that holds it; undefined for files without conditions. */
  readonly from: { readonly sheet: LinkedSheet; readonly rule: ImportRule } | undefined;
}

/** A file of a linked sheet: imports that stay first, then the content of all others. */
export interface SheetFile {
  /** The source that gives the file its name. */
  readonly source: string;
  readonly parts: readonly Part[];
}

/** An import of a sheet that imports the sheet in turn, which browsers do not follow. */
export interface CircularImport {
  readonly sheet: LinkedSheet;
  readonly rule: ImportRule;
}

/**
 * The number of placements of sheets from which on imported sheets become files of their own, which are only made once:
 * sheets that import each other under conditions may be placed exponentially often.
 */
const manyPlacements = 10_000;

/** The maximum number of placements. */
const maxPlacements = 100_000;

/** The maximum number of sheets that import each other in a row. */
const maxDepth = 1000;

/** Thrown for sheets that import each other too many times, in cycles and under conditions, or too many in a row. */
export class TooManyImportsError extends Error {}

/**
 * Distributes sheets over files, so that their rules keep their order in the cascade (CSS Cascade Level 5, sections 2 and 6).
 *
 * An import is replaced by the content of the sheet, in blocks of its conditions. `@import` is only valid at the head of a
 * file, and `@namespace` applies to a whole file; sheets that need one of their own stay imports of separate files:
 *
 * - sheets with namespaces, and what sheets with namespaces import
 * - sheets with conditions that import a URL that is left to the page
 * - everything before an import that stays
 */
export class SheetFiles {
  readonly circular: CircularImport[] = [];
  readonly #files = new Map<LinkedSheet, SheetFile>();
  readonly #isPlain = new Map<LinkedSheet, boolean>();
  #placements = 0;
  /** The number of circular imports that were left out. */
  #skipped = 0;

  /**
   * The file of an entry point.
   *
   * @param sheets the sheets that it consists of, one after the other
   * @throws TooManyImportsError
   */
  fileOf(sheets: readonly LinkedSheet[], source: string): SheetFile {
    const later = new Set<LinkedSheet>();
    const parts: Part[] = [];
    for (const sheet of sheets.toReversed()) {
      if (later.has(sheet)) continue;
      if (this.#isPlainSheet(sheet, new Set())) later.add(sheet);
      if (sheets.length > 1 && sheet.record.hasNamespaces)
        parts.push({ kind: 'import', file: this.#separateFile(sheet, []), from: undefined });
      else parts.push(...this.#partsOf(sheet, [], later).toReversed());
    }
    return withHead(parts.toReversed(), source);
  }

  /**
   * The parts of a sheet with everything it imports.
   *
   * @param around the sheets that import it
   * @param later sheets whose content follows without conditions; undefined inside of conditions
   */
  #partsOf(sheet: LinkedSheet, around: readonly LinkedSheet[], later: Set<LinkedSheet> | undefined): Part[] {
    if (++this.#placements > maxPlacements || around.length > maxDepth) throw new TooManyImportsError();
    const { record } = sheet;
    const inside = [...around, sheet];
    // In reverse: of several imports of a sheet, the last one decides.
    const parts: Part[] = record.isEmpty ? [] : [{ kind: 'body', sheet }];
    for (const one of record.head.toReversed()) {
      if (one.kind === 'layers') parts.push({ kind: 'layers', sheet, range: one.range });
      else parts.push(...this.#imported(sheet, one.rule, inside, later).toReversed());
    }
    return parts.toReversed();
  }

  #imported(
    sheet: LinkedSheet,
    rule: ImportRule,
    inside: readonly LinkedSheet[],
    later: Set<LinkedSheet> | undefined,
  ): Part[] {
    const target = sheet.targets.get(rule);
    const from = { sheet, rule };
    if (!target) return [{ kind: 'import', file: undefined, from }];
    if (inside.includes(target)) {
      this.#skipped++;
      if (!this.circular.some((one) => one.rule === rule)) this.circular.push(from);
      return [];
    }
    const isFree = isUnconditional(rule);
    if (isFree && later && this.#isPlainSheet(target, new Set())) {
      if (later.has(target)) return [];
      later.add(target);
    }
    const isSeparate = sheet.record.hasNamespaces || target.record.hasNamespaces || rule.isOpaque;
    if (isSeparate || this.#placements > manyPlacements)
      return [{ kind: 'import', file: this.#separateFile(target, inside), from }];
    const parts = this.#partsOf(target, inside, isFree ? later : undefined);
    if (isFree) return parts;
    if (parts.some(holdsImport)) return [{ kind: 'import', file: this.#separateFile(target, inside), from }];
    return parts.length === 0 && rule.layer === undefined ? [] : [{ kind: 'block', conditions: rule, parts }];
  }

  /** A file with a sheet and everything that it imports. */
  #separateFile(sheet: LinkedSheet, around: readonly LinkedSheet[]): SheetFile {
    const known = this.#files.get(sheet);
    if (known) return known;
    const before = this.#skipped;
    const file = withHead(this.#partsOf(sheet, around, new Set()), sheet.source);
    // What is circular depends on the sheets around.
    if (this.#skipped === before) this.#files.set(sheet, file);
    return file;
  }

  /** Reports whether it does not matter how often the content of a sheet, with all that it imports, was there before. */
  #isPlainSheet(sheet: LinkedSheet, open: Set<LinkedSheet>): boolean {
    const known = this.#isPlain.get(sheet);
    if (known !== undefined) return known;
    if (open.has(sheet) || open.size > maxDepth) return false;
    open.add(sheet);
    const { hasLayers, hasNamespaces, head } = sheet.record;
    const isPlain =
      !hasLayers &&
      !hasNamespaces &&
      head.every((one) => {
        const target = one.kind === 'import' && isUnconditional(one.rule) ? sheet.targets.get(one.rule) : undefined;
        return target !== undefined && this.#isPlainSheet(target, open);
      });
    open.delete(sheet);
    this.#isPlain.set(sheet, isPlain);
    return isPlain;
  }
}

const isUnconditional = ({ layer, supports, media, isOpaque }: ImportRule): boolean =>
  layer === undefined && supports === undefined && media === '' && !isOpaque;

const holdsImport = (part: Part): boolean => part.kind === 'import';

/** The file of parts: everything before the last import that stays moves into files of its own. */
function withHead(parts: readonly Part[], source: string): SheetFile {
  const lastImport = parts.findLastIndex(holdsImport);
  const head: Part[] = [];
  let hasImport = false;
  let content: Part[] = [];
  const end = (): void => {
    const last = content.flatMap(sheetsOf).at(-1);
    if (last) {
      head.push({ kind: 'import', file: { source: last.source, parts: content }, from: undefined });
      hasImport = true;
    }
    content = [];
  };
  for (const part of parts.slice(0, lastImport + 1)) {
    // Statements that set the order of layers are only valid before the first import.
    const isHead = part.kind === 'import' || (part.kind === 'layers' && content.length === 0 && !hasImport);
    if (!isHead) content.push(part);
    else {
      end();
      hasImport ||= part.kind === 'import';
      head.push(part);
    }
  }
  return { source, parts: [...head, ...parts.slice(lastImport + 1)] };
}

/** The sheets that a part holds something of, in order. */
export function sheetsOf(part: Part): LinkedSheet[] {
  if (part.kind === 'block') return part.parts.flatMap(sheetsOf);
  return part.kind === 'import' ? [] : [part.sheet];
}
