import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a, b, a { c: d }', 'a,b{c:d}'],
  ['.b, a, .b { c: d }', '.b,a{c:d}'],
];
