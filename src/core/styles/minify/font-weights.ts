import type { StyleRewrite } from './rewrite.js';

const weights: Readonly<Record<string, string>> = { normal: '400', bold: '700' };

/** Writes the names of font weights as numbers. */
export const fontWeights: StyleRewrite = {
  name: 'font-weights',
  doc: '`normal` and `bold` become 400 and 700 in `font-weight`, and `bold` in `font`, which is what they mean.',
  reference: 'CSS Fonts Level 4, section 2.2',
  component(node, { property, functions }) {
    if (node.type !== 'Identifier' || functions.length > 0) return undefined;
    const name = node.name.toLowerCase();
    const value = property === 'font-weight' || (property === 'font' && name === 'bold') ? weights[name] : undefined;
    return value === undefined ? undefined : { type: 'Number', value, ...(node.loc && { loc: node.loc }) };
  },
};
