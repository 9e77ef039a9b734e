import type { StyleRewrite } from './rewrite.js';

/** Removes `@charset` where no byte depends on it. */
export const charset: StyleRewrite = {
  name: 'charset',
  doc: '`@charset` goes where the sheet is plain ASCII, and wherever it is not the first thing in the sheet, since browsers pass over it there.',
  reference: 'CSS Syntax Level 3, section 3.2',
  items(nodes, { ascii }) {
    return nodes.filter(
      (node, index) => node.type !== 'Atrule' || node.name.toLowerCase() !== 'charset' || (index === 0 && !ascii),
    );
  },
};
