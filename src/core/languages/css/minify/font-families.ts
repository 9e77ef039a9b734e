import type { CssNodePlain } from 'css-tree';
import { isPlainIdentifier } from '../print/text.js';
import type { StyleRewrite } from './rewrite.js';

/** Words that mean something else when they are not in quotes. */
const reserved =
  /^(serif|sans-serif|cursive|fantasy|monospace|system-ui|emoji|math|fangsong|ui-.*|-.*|inherit|initial|unset|revert|revert-layer|default)$/i;

/** Takes the quotes from names of fonts. */
export const fontFamilies: StyleRewrite = {
  name: 'font-families',
  doc: 'Removes quotes from font family names that consist of identifiers without another meaning.',
  reference: 'CSS Fonts Level 4, section 2.1',
  properties: /^font(-family)?$/,
  declaration(node) {
    if (node.value.type !== 'Value') return false;
    const { children } = node.value;
    if (!children.some((child) => child.type === 'String' && wordsOf(child.value))) return false;
    node.value.children = children.flatMap((child): CssNodePlain[] => {
      const words = child.type === 'String' ? wordsOf(child.value) : undefined;
      return words?.map((name) => ({ type: 'Identifier', name, ...(child.loc && { loc: child.loc }) })) ?? [child];
    });
    return true;
  },
};

/** The identifiers of a family name, if all can be written without quotes. */
function wordsOf(name: string): string[] | undefined {
  const words = name.split(' ');
  const isPlain = words.every((word) => isPlainIdentifier(word) && !reserved.test(word));
  return isPlain && /^[\0-\x7f]*$/.test(name) ? words : undefined;
}
