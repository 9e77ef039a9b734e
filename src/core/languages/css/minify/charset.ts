import type { CssNodePlain } from 'css-tree';
import type { StyleRewrite } from './rewrite.js';

/** Removes `@charset` where no byte depends on it. */
export const charset: StyleRewrite = {
  name: 'charset',
  doc: '`@charset` goes where the sheet is plain ASCII, and wherever it is not the first thing in the sheet, since browsers pass over it there.',
  reference: 'CSS Syntax Level 3, section 3.2',
  cases: [
    ['@charset "utf-8"; a { b: c }', 'a{b:c}'],
    ['@charset "utf-8"; a { b: "ü" }', '@charset "utf-8";a{b:"ü"}'],
  ],
  rules(nodes, { ascii }) {
    const isNeedless = (node: CssNodePlain, index: number): boolean =>
      node.type === 'Atrule' && node.name.toLowerCase() === 'charset' && (index > 0 || ascii);
    return nodes.some(isNeedless) ? nodes.filter((node, index) => !isNeedless(node, index)) : nodes;
  },
};
