import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  [
    '@media all and (min-width: 1px), screen and (hover) { a { b: c } }',
    '@media (min-width:1px),screen and (hover){a{b:c}}',
  ],
  [
    '@media not all and (hover) { a { b: c } } @media all { a { b: c } }',
    '@media not all and (hover){a{b:c}}@media all{a{b:c}}',
  ],
];
