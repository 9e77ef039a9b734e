import type { StyleRewrite } from './rewrite.js';

const weights: Readonly<Record<string, string>> = { normal: '400', bold: '700' };

/** Writes the names of font weights as numbers. */
export const fontWeights: StyleRewrite = {
  name: 'font-weights',
  doc: 'Writes `normal` and `bold` as 400 and 700 in `font-weight`, and `bold` as 700 in `font`.',
  reference: 'CSS Fonts Level 4, section 2.2',
  component: {
    Identifier(node, { property, functions, descriptorOf }) {
      if (!/^font(-weight)?$/.test(property) || functions.length > 0 || descriptorOf !== undefined) return undefined;
      const name = node.name.toLowerCase();
      const value = property === 'font-weight' || name === 'bold' ? weights[name] : undefined;
      return value === undefined ? undefined : { type: 'Number', value, ...(node.loc && { loc: node.loc }) };
    },
  },
};
