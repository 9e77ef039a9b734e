import { posix } from 'node:path';
import { atRule, isAtRule } from './at-rules.js';
import type { AtrulePlain, CssNodePlain } from 'css-tree';
import type { CopiedText, TextBuilder } from '../source-maps/index.js';
import { printString, printUrl } from './print/text.js';

/** A sheet to join: its text, and its path. */
export interface StylePart {
  readonly from: CopiedText;
  readonly path: string;
  /** The parsed content of the sheet. */
  readonly nodes: readonly CssNodePlain[];
}

/**
 * Joins style sheets in order. There is one `@charset`, the `@import` and `@namespace` rules of all sheets come first,
 * where they are valid (CSS Cascade Level 5, section 2; CSS Namespaces Level 3, section 2.1), and relative URLs are
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
  for (const sheet of sheets) sheet.writeHead('import', out);
  for (const sheet of sheets) sheet.writeHead('namespace', out);
  for (const sheet of sheets) sheet.writeBody(out);
}

class Sheet {
  readonly hasCharset: boolean;
  readonly #head: AtrulePlain[] = [];
  readonly #urls: { start: number; end: number; text: string }[] = [];
  readonly #charsets: AtrulePlain[];

  constructor(
    private readonly part: StylePart,
    into: string,
  ) {
    const { nodes } = part;
    this.#charsets = nodes.filter((node) => isAtRule(node, 'charset'));
    this.hasCharset = this.#charsets.length > 0;
    this.#head = headOf(nodes);
    if (posix.dirname(part.path) !== posix.dirname(into)) for (const node of nodes) this.#findUrls(node, into, false);
  }

  /** Writes the imports, with the layer order that is set before them, or the namespaces. */
  writeHead(kind: 'import' | 'namespace', out: TextBuilder): void {
    for (const node of this.#head) {
      if ((node.name.toLowerCase() === 'namespace') !== (kind === 'namespace')) continue;
      this.#copy(start(node), end(node), out);
      out.add(out.text.endsWith(';') ? '\n' : ';\n');
    }
  }

  writeBody(out: TextBuilder): void {
    const { text } = this.part.from;
    let at = 0;
    for (const node of [...this.#charsets, ...this.#head].sort((a, b) => start(a) - start(b))) {
      this.#copy(at, start(node), out);
      at = end(node) + /^\s*;?[ \t]*\n?/.exec(text.slice(end(node)))![0].length;
    }
    const stop = text.length - (/\s*(\/\*# sourceMappingURL=[^*]*\*\/\s*)?$/.exec(text)?.[0].length ?? 0);
    if (stop <= at) return;
    this.#copy(at, stop, out);
    out.add('\n');
  }

  #copy(from: number, to: number, out: TextBuilder): void {
    let at = from;
    for (const url of this.#urls) {
      if (url.start < from || url.end > to) continue;
      out.copy(this.part.from, at, url.start);
      out.add(url.text, this.part.from, url.start);
      at = url.end;
    }
    out.copy(this.part.from, at, to);
  }

  #findUrls(node: CssNodePlain, into: string, inImport: boolean): void {
    if (node.loc && (node.type === 'Url' || (inImport && node.type === 'String')) && isRelative(node.value)) {
      const moved = posix.relative(posix.dirname(into), posix.join(posix.dirname(this.part.path), node.value));
      this.#urls.push({
        start: start(node),
        end: end(node),
        text: node.type === 'Url' ? printUrl(moved) : printString(moved),
      });
      return;
    }
    const isImport = isAtRule(node, 'import');
    for (const child of childrenOf(node))
      this.#findUrls(child, into, isImport || (inImport && node.type === 'AtrulePrelude'));
  }
}

/** The rules that only count at the head of a sheet: imports, and layer orders before them, then namespaces. */
function headOf(nodes: readonly CssNodePlain[]): AtrulePlain[] {
  const head: AtrulePlain[] = [];
  let namespaces = false;
  for (const node of nodes) {
    const name = node.type === 'Atrule' ? node.name.toLowerCase() : '';
    if (node.type !== 'Atrule' || !(atRule(name)?.isHeader || (name === 'layer' && !node.block))) break;
    if (name === 'namespace') namespaces = true;
    // An import after a namespace counts no more.
    if (name === 'charset' || (namespaces && name !== 'namespace')) continue;
    head.push(node);
  }
  // A layer order after the last import can remain there.
  const lastImport = head.findLastIndex((node) => node.name.toLowerCase() === 'import');
  return head.filter((node, at) => node.name.toLowerCase() !== 'layer' || at < lastImport);
}

function isRelative(url: string): boolean {
  return url !== '' && !/^([a-z][a-z0-9+.-]*:|\/|#|\?)/i.test(url);
}

function childrenOf(node: CssNodePlain): readonly CssNodePlain[] {
  const parts: unknown[] = [];
  for (const key of ['prelude', 'block', 'value', 'children'] as const)
    if (key in node) parts.push((node as unknown as Record<string, unknown>)[key]);
  return parts
    .flat()
    .filter((part): part is CssNodePlain => typeof part === 'object' && part !== null && 'type' in part);
}

const start = (node: CssNodePlain): number => node.loc?.start.offset ?? 0;
const end = (node: CssNodePlain): number => node.loc?.end.offset ?? 0;
