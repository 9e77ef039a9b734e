import { ident, type CssNodePlain } from 'css-tree';
import type { StyleRewrite } from './rewrite.js';

/** Writes names in selectors with the escapes that they need. */
export const escapes: StyleRewrite = {
  name: 'escapes',
  doc: 'Removes unnecessary escapes from class names and ids, and writes the others in their shortest form.',
  reference: 'CSS Syntax Level 3, section 4.3.7; CSSOM, section 2.1',
  cases: [
    ['.\\66 ern, #\\000066 ern, .\\0031 0 { a: b }', '.fern,#fern,.\\31 0{a:b}'],
    ['.h\\:i, .\\68\\3a i { a: b }', '.h\\:i{a:b}'],
  ],
  selector: { ClassSelector: shortened, IdSelector: shortened },
};

function shortened(node: Extract<CssNodePlain, { type: 'ClassSelector' | 'IdSelector' }>): CssNodePlain | undefined {
  if (!node.name.includes('\\')) return undefined;
  const name = ident.encode(ident.decode(node.name));
  return name.length < node.name.length ? { ...node, name } : undefined;
}
