import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  [
    '@keyframes x { from { a: b } 50.0%, 100% { a: c } } @-webkit-keyframes y { FROM { a: b } }',
    '@keyframes x{0%{a:b}50%,to{a:c}}@-webkit-keyframes y{0%{a:b}}',
  ],
];
