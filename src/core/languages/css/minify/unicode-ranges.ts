import type { StyleRewrite } from './rewrite.js';

/** Writes ranges of characters in their shortest spelling. */
export const unicodeRanges: StyleRewrite = {
  name: 'unicode-ranges',
  doc: 'Removes leading zeros from Unicode ranges, and uses question marks for ranges that cover whole blocks.',
  reference: 'CSS Syntax Level 3, section 7',
  component: {
    UnicodeRange(node) {
      const [, from = '', to] = /^u\+([\da-f]+)(?:-([\da-f]+))?$/i.exec(node.value) ?? [];
      if (from === '') return undefined;
      const [first, last] = [from, to ?? from].map((digits) => digits.toUpperCase().replace(/^0+(?=.)/, ''));
      const value = `U+${to === undefined ? first! : shortRange(first!, last!)}`;
      return value.length < node.value.length ? { ...node, value } : undefined;
    },
  },
};

function shortRange(first: string, last: string): string {
  if (first === last) return first;
  const start = first.padStart(last.length, '0');
  const block = /^(.*?)(F+)$/.exec(last);
  // The part that both have, followed by all zeros in one and all Fs in the other.
  if (block) {
    const [, head = '', tail = ''] = block;
    for (let marks = tail.length; marks > 0; marks--) {
      const common = head + tail.slice(0, tail.length - marks);
      if (start === common + '0'.repeat(marks)) return common + '?'.repeat(marks);
    }
  }
  return `${first}-${last}`;
}
