import type { CssNodePlain } from 'css-tree';
import { isAtRule } from '../at-rules.js';
import type { StyleRewrite } from './rewrite.js';

/** Removes `@charset` where no byte depends on it. */
export const charset: StyleRewrite = {
  name: 'charset',
  doc: 'Removes `@charset` from ASCII style sheets, and wherever it is not the first thing in the sheet, because browsers ignore it there.',
  reference: 'CSS Syntax Level 3, section 3.2',
  rules(nodes, { ascii }) {
    const isNeedless = (node: CssNodePlain, index: number): boolean =>
      isAtRule(node, 'charset') && (index > 0 || ascii);
    return nodes.some(isNeedless) ? nodes.filter((node, index) => !isNeedless(node, index)) : nodes;
  },
};
