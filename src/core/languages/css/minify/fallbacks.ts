import { tokenize, tokenTypes } from 'css-tree';
import { shortNumber } from './numbers.js';
import type { StyleRewrite } from './rewrite.js';

/** Shortens numbers in the fallbacks of `var()`. */
export const fallbacks: StyleRewrite = {
  name: 'fallbacks',
  doc: 'Shortens numbers in the fallbacks of `var()` by removing redundant zeros. `1.0` is kept where an integer may be required, and values of custom properties are kept because scripts can read them.',
  reference: 'CSS Custom Properties Level 1, section 3',
  cases: [
    ['a { width: var(--a, 00.50em) }', 'a{width:var(--a,.5em)}'],
    ['a { margin: var(--a, 10.0px 050% 0.50) }', 'a{margin:var(--a,10px 50% .5)}'],
    ['a { z-index: var(--a, 1.0); --b: var(--a, 0.50em) }', 'a{z-index:var(--a,1.0);--b:var(--a, 0.50em)}'],
    ['a { width: calc(1px + var(--a, calc(2px - -0.0em))) }', 'a{width:calc(1px + var(--a,calc(2px - -0em)))}'],
  ],
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
