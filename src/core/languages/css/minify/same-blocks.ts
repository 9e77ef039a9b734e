import type { CssNodePlain, RulePlain, SelectorListPlain } from 'css-tree';
import { selectorFacts } from '../cascade/selectors.js';
import { declarationText } from '../cascade/values.js';
import type { StyleSupport } from '../support/support.js';
import { mergeAcross, mergeNeighbours } from './merging.js';
import { isPlainRule } from './plain-rule.js';
import type { StyleRewrite } from './rewrite.js';

/** Merges rules with the same declarations. */
export const sameBlocks: StyleRewrite = {
  name: 'same-blocks',
  doc: 'Merges rules with the same declarations into one with all selectors if nothing between them conflicts and every browser that supports one selector supports the others.',
  reference: 'Selectors Level 4, section 4.1; CSS Cascade Level 5, section 6.1',
  rules(nodes, context) {
    const merges = context.within === 'rule' ? mergeNeighbours<RulePlain> : mergeAcross<RulePlain>;
    return merges(nodes, context, {
      key: (node) => blockKey(node, context.support),
      merge(into, parts) {
        const selectors = parts.flatMap(({ prelude }) => (prelude as SelectorListPlain).children);
        (into.prelude as SelectorListPlain).children = selectors;
      },
    });
  },
};

function blockKey(node: CssNodePlain, support: StyleSupport): string | undefined {
  if (!isPlainRule(node) || node.prelude.type !== 'SelectorList' || node.block.children.length === 0) return undefined;
  let risks: string | undefined;
  for (const one of node.prelude.children) {
    const own = one.type === 'Selector' ? selectorFacts(one, support).risks : 'unknown';
    // In a list with selectors that not everyone knows, those that everyone knows are lost with them already.
    if (risks !== undefined && risks !== own) return undefined;
    risks = own;
  }
  let block = risks ?? '';
  for (const child of node.block.children) if (child.type === 'Declaration') block += `;${declarationText(child)}`;
  return block;
}
