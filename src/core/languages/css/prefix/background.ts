import type { CssNodePlain } from 'css-tree';
import { splitAtCommas } from '../commas.js';
import { printComponent, printComponents } from '../print/values.js';
import type { OlderDeclaration } from './flexbox.js';

const isWord = (node: CssNodePlain, words: RegExp): boolean =>
  node.type === 'Identifier' && words.test(node.name.toLowerCase());

/**
 * A background that is seen through the text alone, for browsers that know this as a property with a prefix: first the
 * background without it, which they take.
 */
export function olderBackground(value: readonly CssNodePlain[], name: string): OlderDeclaration[] {
  const layers = splitAtCommas(value);
  const isText = (node: CssNodePlain): boolean => isWord(node, /^text$/);
  if (!layers.some((layer) => layer.some(isText))) return [];
  const plain = layers.map((layer) => {
    const kept = layer.filter((node) => !isText(node));
    return kept.length > 0 ? printComponents(kept, printComponent) : 'none';
  });
  // The second box says where it ends; one alone says both.
  const ends = layers.map((layer) => {
    const box = layer.filter((node) => isWord(node, /^(border|padding|content)-box$/)).at(-1);
    if (layer.some(isText)) return 'text';
    return box?.type === 'Identifier' ? box.name : 'border-box';
  });
  return [
    { property: 'background', value: plain.join(', ') },
    { property: name, value: ends.join(', ') },
  ];
}
