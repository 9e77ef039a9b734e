import type { CssNodePlain } from 'css-tree';
import type { StyleRewrite } from './rewrite.js';

/** Removes rules that say nothing. */
export const emptyRules: StyleRewrite = {
  name: 'empty-rules',
  doc: 'Rules and conditions with nothing in them go; at-rules that mean something by being there, such as `@layer`, stay.',
  reference: 'CSSOM, section 6.4',
  items(nodes, { hasComment }) {
    return nodes.filter(
      (node) => !isEmpty(node) || (node.loc && hasComment(node.loc.start.offset, node.loc.end.offset)),
    );
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
