import type { CssNodePlain } from 'css-tree';
import { styleReferences } from '../../references/styles.js';
import type { Reference } from '../../references/reference.js';
import type { CopiedText } from '../../source-maps/index.js';
import { isAtRule } from '../at-rules.js';
import { needsSemicolonAfter } from '../copied-sheet.js';
import { firstFrom } from '../offsets.js';
import { sheetHead } from '../sheet-head.js';
import { readImport, type ImportRule } from './import-rule.js';

/** A range of a text: 0-based offsets. */
export interface Range {
  readonly start: number;
  readonly end: number;
}

/** A rule at the head of a sheet whose order counts: an import, or a statement before them that sets the order of layers. */
export type HeadRule =
  { readonly kind: 'import'; readonly rule: ImportRule } | { readonly kind: 'layers'; readonly range: Range };

/** What linking has to know about a sheet. */
export interface SheetRecord {
  readonly from: CopiedText;
  readonly head: readonly HeadRule[];
  /** Imports and namespaces after other rules, which browsers skip, and invalid imports. */
  readonly late: readonly Range[];
  /** The ranges of its text that are not copied, in order: the head, late imports, and what has no effect inside of a text. */
  readonly excluded: readonly Range[];
  readonly hasCharset: boolean;
  readonly hasNamespaces: boolean;
  /** True if it names or opens layers, so that its position sets their order. */
  readonly hasLayers: boolean;
  /** True if it has no rules besides its head. */
  readonly isEmpty: boolean;
  /** True if its last rule needs a semicolon before anything can follow. */
  readonly needsSemicolon: boolean;
  /** The URLs outside of the head. */
  readonly references: readonly Reference[];
}

/** Reads what linking has to know about a parsed sheet. */
export function sheetRecord(from: CopiedText, nodes: readonly CssNodePlain[]): SheetRecord {
  const { text } = from;
  const found = sheetHead(nodes);
  const rangeOf = (node: CssNodePlain): Range => rangeIn(node, text);
  const late = found.late.map(rangeOf);
  const head: HeadRule[] = found.layers.map((node) => ({ kind: 'layers', range: rangeOf(node) }));
  for (const { start, end } of found.imports.map(rangeOf)) {
    const rule = readImport(text, start, end);
    if (rule) head.push({ kind: 'import', rule });
    else late.push({ start, end });
  }
  const isExcludedNode = (node: CssNodePlain): boolean =>
    node.type === 'CDO' || node.type === 'CDC' || isAtRule(node, 'charset');
  const excludedNodes = new Set([...nodes.filter(isExcludedNode), ...found.layers, ...found.imports, ...found.late]);
  const excluded = [...excludedNodes].map(rangeOf);
  const last = nodes.findLast((node) => !excludedNodes.has(node));
  // Text at the end that is no rule would swallow what follows.
  if (last?.type === 'Raw' && !last.value.trimEnd().endsWith('}')) excluded.push(rangeOf(last));
  excluded.sort((a, b) => a.start - b.start);
  const isExcluded = ({ start }: Range): boolean => {
    const before = excluded[firstFrom(excluded, start + 1) - 1];
    return before !== undefined && start < before.end;
  };
  return {
    from,
    head,
    late,
    excluded,
    hasCharset: nodes.some((node) => isAtRule(node, 'charset')),
    hasNamespaces: found.namespaces.length > 0,
    hasLayers: head.some((one) => one.kind === 'layers') || nodes.some(holdsLayer),
    isEmpty: !nodes.some((node) => !isExcluded(rangeOf(node))),
    needsSemicolon: last !== undefined && needsSemicolonAfter(last, text),
    references: styleReferences(text).filter((one) => !isExcluded(one)),
  };
}

/** Reports whether a rule is one of a layer, or contains some. */
function holdsLayer(node: CssNodePlain): boolean {
  if (node.type !== 'Atrule') return false;
  return node.name.toLowerCase() === 'layer' || (node.block?.children.some(holdsLayer) ?? false);
}

function rangeIn(node: CssNodePlain, text: string): Range {
  if (node.loc) return { start: node.loc.start.offset, end: node.loc.end.offset };
  // Only text that is no rule has no position.
  const value = node.type === 'Raw' ? node.value : '';
  const start = Math.max(0, text.lastIndexOf(value));
  return { start, end: start + value.length };
}
