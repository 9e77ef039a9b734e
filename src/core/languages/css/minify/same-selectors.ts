import type { CssNodePlain, RulePlain } from 'css-tree';
import { selectorText } from '../cascade/selectors.js';
import { mergeAcross, mergeNeighbours } from './merging.js';
import { isPlainRule } from './plain-rule.js';
import type { StyleRewrite } from './rewrite.js';

/** Puts rules for the same elements together. */
export const sameSelectors: StyleRewrite = {
  name: 'same-selectors',
  doc: 'Merges rules with the same selectors if no rule between them conflicts.',
  reference: 'CSS Cascade Level 5, section 6.1',
  rules(nodes, context) {
    const changed = new Set<RulePlain>();
    const merges = context.within === 'rule' ? mergeNeighbours<RulePlain> : mergeAcross<RulePlain>;
    const merged = merges(nodes, context, {
      key: selectorKey,
      merge(into, parts) {
        into.block.children = parts.flatMap(({ block }) => block.children);
        changed.add(into);
      },
    });
    for (const rule of changed) rule.block.children = context.again(rule.block.children, 'rule');
    return merged;
  },
};

function selectorKey(node: CssNodePlain): string | undefined {
  if (!isPlainRule(node) || node.prelude.type !== 'SelectorList') return undefined;
  const texts = node.prelude.children.map(selectorText);
  return texts.length === 1 ? texts[0] : texts.sort().join();
}
