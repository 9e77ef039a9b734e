import type { CssNodePlain, RulePlain } from 'css-tree';

/** Reports whether a node is a rule with declarations and nothing else in it: others are not taken apart. */
export function isPlainRule(node: CssNodePlain): node is RulePlain {
  return (
    node.type === 'Rule' &&
    node.prelude.type === 'SelectorList' &&
    node.block.children.every((child) => child.type === 'Declaration')
  );
}
