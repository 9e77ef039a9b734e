import type { CssNodePlain } from 'css-tree';
import type { StyleRewrite } from './rewrite.js';

/** Removes rules that say nothing. */
export const emptyRules: StyleRewrite = {
  name: 'empty-rules',
  doc: 'Rules and conditions with nothing in them go; at-rules that mean something by being there, such as `@layer`, stay.',
  reference: 'CSSOM, section 6.4',
  cases: [
    [
      'a { } @media print { b { } } @supports (c: d) { } @layer e { } @keyframes f { } @font-face { }',
      '@layer e{}@keyframes f{}@font-face{}',
    ],
  ],
  rules(nodes, { hasComment }) {
    const isNeedless = (node: CssNodePlain): boolean => isEmpty(node) && !hasComment(node);
    return nodes.some(isNeedless) ? nodes.filter((node) => !isNeedless(node)) : nodes;
  },
};

function isEmpty(node: CssNodePlain): boolean {
  if (node.type === 'Rule') return node.block.children.length === 0;
  return (
    node.type === 'Atrule' &&
    /^(media|supports|container|starting-style)$/i.test(node.name) &&
    node.block?.children.length === 0
  );
}
