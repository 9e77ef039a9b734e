import type { CssNodePlain } from 'css-tree';
import { atRule } from '../at-rules.js';
import type { StyleRewrite } from './rewrite.js';

/** Removes rules without effect. */
export const emptyRules: StyleRewrite = {
  name: 'empty-rules',
  doc: 'Removes empty rules and conditional groups. At-rules whose mere presence has an effect, such as `@layer`, are kept.',
  reference: 'CSSOM, section 6.4',
  rules(nodes, { hasComment }) {
    const isNeedless = (node: CssNodePlain): boolean => isEmpty(node) && !hasComment(node);
    return nodes.some(isNeedless) ? nodes.filter((node) => !isNeedless(node)) : nodes;
  },
};

function isEmpty(node: CssNodePlain): boolean {
  if (node.type === 'Rule') return node.block.children.length === 0;
  return node.type === 'Atrule' && atRule(node.name)?.isEmptyable === true && node.block?.children.length === 0;
}
