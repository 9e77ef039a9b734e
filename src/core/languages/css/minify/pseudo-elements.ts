import type { StyleRewrite } from './rewrite.js';

/** Writes the oldest pseudo-elements with one colon. */
export const pseudoElements: StyleRewrite = {
  name: 'pseudo-elements',
  doc: 'Writes `::before`, `::after`, `::first-line` and `::first-letter` with one colon; both forms of these four are equivalent.',
  reference: 'Selectors Level 4, section 3.6.3',
  selector: {
    PseudoElementSelector(node) {
      const name = node.name.toLowerCase();
      if (node.children || !/^(before|after|first-line|first-letter)$/.test(name)) return undefined;
      return { ...node, name, type: 'PseudoClassSelector' };
    },
  },
};
