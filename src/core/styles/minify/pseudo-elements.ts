import type { StyleRewrite } from './rewrite.js';

/** Writes the oldest pseudo-elements with one colon. */
export const pseudoElements: StyleRewrite = {
  name: 'pseudo-elements',
  doc: '`::before`, `::after`, `::first-line` and `::first-letter` lose a colon: for these four, both forms are the same.',
  reference: 'Selectors Level 4, section 3.6.3',
  selector(node) {
    if (
      node.type !== 'PseudoElementSelector' ||
      node.children ||
      !/^(before|after|first-line|first-letter)$/i.test(node.name)
    )
      return undefined;
    return { ...node, type: 'PseudoClassSelector' };
  },
};
