import { posix } from 'node:path';
import { isAtRule } from './at-rules.js';
import { sheetHead, type SheetHead } from './sheet-head.js';
import type { AtrulePlain, CssNodePlain } from 'css-tree';
import type { CopiedText, TextBuilder } from '../source-maps/index.js';
import { styleReferences } from '../references/styles.js';
import { copyPiece, endOfRules, needsSemicolonAfter, type NewUrl } from './copied-sheet.js';

/** A sheet to join: its text, and its path. */
export interface StylePart {
  readonly from: CopiedText;
  readonly path: string;
  /** The parsed content of the sheet. */
  readonly nodes: readonly CssNodePlain[];
}

/**
 * Joins style sheets in order. There is one `@charset`, the `@import` and `@namespace` rules of all sheets come first, after
 * the statements of layers before imports, where they are valid (CSS Cascade Level 5, section 2; CSS Namespaces Level 3, section 2.1), and relative URLs are
 * rebased.
 *
 * @param into the path of the joined sheet
 * @param banner a comment to begin with
 */
export function joinStyles(
  parts: readonly StylePart[],
  into: string,
  banner: string | undefined,
  out: TextBuilder,
): void {
  const sheets = parts.map((part) => new Sheet(part, into));
  if (sheets.some((sheet) => sheet.hasCharset)) out.add('@charset "UTF-8";\n');
  if (banner !== undefined) out.add(`${banner}\n`);
  for (const kind of ['layers', 'imports', 'namespaces'] as const)
    for (const sheet of sheets) sheet.writeHead(kind, out);
  for (const sheet of sheets) sheet.writeBody(out);
}

class Sheet {
  readonly hasCharset: boolean;
  readonly #head: Pick<SheetHead, 'layers' | 'imports' | 'namespaces'>;
  readonly #removed: readonly AtrulePlain[];
  readonly #urls: readonly NewUrl[];

  constructor(
    private readonly part: StylePart,
    into: string,
  ) {
    const { nodes } = part;
    const charsets = nodes.filter((node) => isAtRule(node, 'charset'));
    this.hasCharset = charsets.length > 0;
    const { imports, layers, namespaces } = sheetHead(nodes);
    // A statement of layers can remain where it is if no import follows.
    this.#head = { layers: imports.length > 0 ? layers : [], imports, namespaces };
    this.#removed = [...charsets, ...Object.values(this.#head).flat()];
    const [from, to] = [posix.dirname(part.path), posix.dirname(into)];
    this.#urls =
      from === to
        ? []
        : styleReferences(part.from.text)
            .filter(({ url }) => isRelative(url))
            .map((one) => ({ ...one, url: posix.relative(to, posix.join(from, one.url)) }));
  }

  /** Writes a part of the head. */
  writeHead(kind: 'layers' | 'imports' | 'namespaces', out: TextBuilder): void {
    for (const node of this.#head[kind]) {
      this.#copy(start(node), end(node), out);
      out.add(out.text.endsWith(';') ? '\n' : ';\n');
    }
  }

  writeBody(out: TextBuilder): void {
    const { text } = this.part.from;
    let at = 0;
    for (const node of this.#removed.toSorted((a, b) => start(a) - start(b))) {
      this.#copy(at, start(node), out);
      at = end(node) + /^\s*;?[ \t]*\n?/.exec(text.slice(end(node)))![0].length;
    }
    const stop = endOfRules(text);
    if (stop <= at) return;
    this.#copy(at, stop, out);
    const last = this.part.nodes.at(-1);
    out.add(last && needsSemicolonAfter(last, text) ? ';\n' : '\n');
  }

  #copy(from: number, to: number, out: TextBuilder): void {
    copyPiece(this.part.from, from, to, this.#urls, out);
  }
}

function isRelative(url: string): boolean {
  return url !== '' && !/^([a-z][a-z0-9+.-]*:|\/|#|\?)/i.test(url);
}

const start = (node: CssNodePlain): number => node.loc?.start.offset ?? 0;
const end = (node: CssNodePlain): number => node.loc?.end.offset ?? 0;
