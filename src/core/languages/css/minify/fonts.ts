import type { CssNodePlain } from 'css-tree';
import { holdsSubstitution } from '../cascade/value-text.js';
import { isSlash } from '../commas.js';
import type { StyleRewrite } from './rewrite.js';

/** Removes initial values from `font`. */
export const fonts: StyleRewrite = {
  name: 'fonts',
  doc: 'Removes `normal`, the weight 400 and the initial line height from `font`.',
  reference: 'CSS Fonts Level 4, section 2.7',
  properties: /^font$/,
  declaration(node) {
    if (node.value.type !== 'Value' || holdsSubstitution(node.value.children)) return false;
    const { children } = node.value;
    const size = children.findIndex((child) => child.type === 'Dimension' || child.type === 'Percentage');
    if (size < 0) return false;
    const isUsual = (child: CssNodePlain | undefined): boolean =>
      child?.type === 'Identifier' && /^normal$/i.test(child.name);
    const before = children
      .slice(0, size)
      .filter((child) => !isUsual(child) && !(child.type === 'Number' && child.value === '400'));
    const after = children.slice(size + 1);
    const rest = after[0] && isSlash(after[0]) && isUsual(after[1]) ? after.slice(2) : after;
    const kept = [...before, children[size]!, ...rest];
    if (kept.length === children.length) return false;
    node.value.children = kept;
    return true;
  },
};
