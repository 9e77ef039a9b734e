import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  [
    '@font-face { unicode-range: U+0000-00FF, U+0131, u+0152-0153, U+0400-04FF }',
    '@font-face{unicode-range:U+??,U+131,U+152-153,U+4??}',
  ],
  ['@font-face { unicode-range: U+4??, U+0-10FFFF }', '@font-face{unicode-range:U+4??,U+0-10FFFF}'],
];
