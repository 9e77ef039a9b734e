import { ident, type CssNodePlain } from 'css-tree';
import type { StyleRewrite } from './rewrite.js';

/** Writes names in selectors with the escapes that they need. */
export const escapes: StyleRewrite = {
  name: 'escapes',
  doc: 'Removes unnecessary escapes from class names and ids, and writes the others in their shortest form.',
  reference: 'CSS Syntax Level 3, section 4.3.7; CSSOM, section 2.1',
  selector: { ClassSelector: shortened, IdSelector: shortened },
};

function shortened(node: Extract<CssNodePlain, { type: 'ClassSelector' | 'IdSelector' }>): CssNodePlain | undefined {
  if (!node.name.includes('\\')) return undefined;
  const name = ident.encode(ident.decode(node.name));
  return name.length < node.name.length ? { ...node, name } : undefined;
}
