import type { AtrulePlain, CssNodePlain } from 'css-tree';
import { atRule } from './at-rules.js';

/** The rules of a sheet that are only valid before all others. */
export interface SheetHead {
  /** Statements that set the order of layers, before the first import. */
  readonly layers: readonly AtrulePlain[];
  readonly imports: readonly AtrulePlain[];
  readonly namespaces: readonly AtrulePlain[];
  /** Imports and namespaces after other rules, which browsers skip. */
  readonly late: readonly AtrulePlain[];
}

/**
 * Determines which rules are at the head of a sheet: statements of layers, then imports with nothing between them, then
 * namespaces (CSS Cascade Level 5, section 2; CSS Namespaces Level 3, section 2.1).
 */
export function sheetHead(nodes: readonly CssNodePlain[]): SheetHead {
  const head = { layers: [], imports: [], namespaces: [], late: [] } as Record<keyof SheetHead, AtrulePlain[]>;
  let stage: keyof SheetHead = 'layers';
  for (const node of nodes) {
    if (node.type !== 'Atrule') {
      // Text that is no rule, and the remains of comments in pages, do not count.
      if (node.type === 'Rule') stage = 'late';
      continue;
    }
    const name = node.name.toLowerCase();
    if (name === 'charset') continue;
    if (name === 'import') {
      if (stage === 'layers') stage = 'imports';
      head[stage === 'imports' ? 'imports' : 'late'].push(node);
    } else if (name === 'namespace') {
      if (stage !== 'late') stage = 'namespaces';
      head[stage].push(node);
    } else if (name === 'layer' && !node.block && stage === 'layers') head.layers.push(node);
    // Browsers that do not know a rule skip it, so that it does not end the head.
    else if (atRule(name)) stage = 'late';
  }
  return head;
}
