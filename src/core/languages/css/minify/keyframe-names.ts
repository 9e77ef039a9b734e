import { shortNumber } from './numbers.js';
import { atRule } from '../at-rules.js';
import type { StyleRewrite } from './rewrite.js';

/** Writes the two ends of an animation in their shorter form. */
export const keyframeNames: StyleRewrite = {
  name: 'keyframe-names',
  doc: 'Shortens keyframe selectors: `from` becomes 0%, 100% becomes `to`, and other percentages lose redundant zeros.',
  reference: 'CSS Animations Level 1, section 3',
  atRule(node) {
    if (atRule(node.name)?.block !== 'keyframes' || !node.block) return;
    for (const frame of node.block.children) {
      if (frame.type !== 'Rule' || frame.prelude.type !== 'SelectorList') continue;
      for (const selector of frame.prelude.children) {
        // More than one component is invalid, and must remain invalid.
        if (selector.type !== 'Selector' || selector.children.length !== 1) continue;
        selector.children = selector.children.map((part) => {
          if (part.type === 'TypeSelector' && part.name.toLowerCase() === 'from')
            return { type: 'Percentage', value: '0' };
          if (part.type !== 'Percentage') return part;
          return Number(part.value) === 100
            ? { type: 'TypeSelector', name: 'to' }
            : { ...part, value: shortNumber(part.value) };
        });
      }
    }
  },
};
