import type { RulePlain } from 'css-tree';
import { selectorText } from '../cascade/selectors.js';
import type { StyleRewrite } from './rewrite.js';

/** Removes selectors that a list has twice. */
export const repeatedSelectors: StyleRewrite = {
  name: 'repeated-selectors',
  doc: 'Removes duplicate selectors from a list; their order has no effect.',
  reference: 'Selectors Level 4, section 4.1',
  rules(nodes) {
    for (const node of nodes) if (node.type === 'Rule') withoutRepeats(node);
    return nodes;
  },
};

function withoutRepeats({ prelude }: RulePlain): void {
  if (prelude.type !== 'SelectorList' || prelude.children.length < 2) return;
  const seen = new Set<string>();
  const kept = prelude.children.filter((one) => {
    const text = selectorText(one);
    return !seen.has(text) && seen.add(text);
  });
  if (kept.length < prelude.children.length) prelude.children = kept;
}
