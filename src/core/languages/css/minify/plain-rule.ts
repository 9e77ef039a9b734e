import type { CssNodePlain, RulePlain } from 'css-tree';

/** Reports whether a node is a rule that contains only declarations; only such rules are split and merged. */
export function isPlainRule(node: CssNodePlain): node is RulePlain {
  return (
    node.type === 'Rule' &&
    node.prelude.type === 'SelectorList' &&
    node.block.children.every((child) => child.type === 'Declaration')
  );
}
