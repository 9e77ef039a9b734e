import { tokenize, tokenTypes } from 'css-tree';
import { shortNumber } from './numbers.js';
import type { StyleRewrite } from './rewrite.js';

/** Shortens numbers in the fallbacks of `var()`. */
export const fallbacks: StyleRewrite = {
  name: 'fallbacks',
  doc: 'Shortens numbers in the fallbacks of `var()` by removing redundant zeros. `1.0` is kept where an integer may be required, and values of custom properties are kept because scripts can read them.',
  reference: 'CSS Custom Properties Level 1, section 3',
  keepsText: true,
  component: {
    Raw(node, { functions }) {
      if (functions.at(-1) !== 'var') return undefined;
      const value = withShortNumbers(node.value);
      return value === node.value ? undefined : { ...node, value };
    },
  },
};

function withShortNumbers(text: string): string {
  let made = '';
  tokenize(text, (type, start, end) => {
    const token = text.slice(start, end);
    const isNumber = type === tokenTypes.Number;
    if (!isNumber && type !== tokenTypes.Dimension && type !== tokenTypes.Percentage) {
      made += token;
      return;
    }
    const [number = ''] = /^[+-]?[\d.]+(e[+-]?\d+)?/i.exec(token)!;
    const short = shortNumber(number, true);
    // A sign may separate the number from the previous token, and 1.0 may be invalid where 1 is valid.
    const stays = number.startsWith('+') || (isNumber && !short.includes('.'));
    made += stays ? token : short + token.slice(number.length);
  });
  return made;
}
