import type { StyleRewrite } from './rewrite.js';

/** Writes the addresses of imports as strings. */
export const imports: StyleRewrite = {
  name: 'imports',
  doc: 'Writes `@import url(a.css)` as the equivalent `@import "a.css"`.',
  reference: 'CSS Cascade Level 5, section 2',
  atRule(node) {
    if (node.name.toLowerCase() !== 'import' || node.prelude?.type !== 'AtrulePrelude') return;
    node.prelude.children = node.prelude.children.map((child, index) =>
      index === 0 && child.type === 'Url' ? { ...child, type: 'String' } : child,
    );
  },
};
