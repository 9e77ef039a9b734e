import type { CssNodePlain } from 'css-tree';
import { splitAtCommas } from '../commas.js';
import { printComponent, printComponents } from '../print/values.js';
import type { OlderDeclaration } from './flexbox.js';

const isWord = (node: CssNodePlain, words: RegExp): boolean =>
  node.type === 'Identifier' && words.test(node.name.toLowerCase());

/**
 * Expands a background clipped to text for browsers with a prefixed `background-clip`: first the background without
 * `text`, then the clipping.
 *
 * @param name the prefixed property
 */
export function olderBackground(value: readonly CssNodePlain[], name: string): OlderDeclaration[] {
  const layers = splitAtCommas(value);
  const isText = (node: CssNodePlain): boolean => isWord(node, /^text$/);
  if (!layers.some((layer) => layer.some(isText))) return [];
  const plain = layers.map((layer) => {
    const kept = layer.filter((node) => !isText(node));
    return kept.length > 0 ? printComponents(kept, printComponent) : 'none';
  });
  // The second box is the clip area; a single one is both.
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
