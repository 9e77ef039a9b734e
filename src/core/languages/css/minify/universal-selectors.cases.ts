import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['*.a, b > *:hover, *::before, * { c: d }', '.a,b>:hover,:before,*{c:d}'],
  ['*|*.a, ns|*.b, :not(*.c) { d: e }', '*|*.a,ns|*.b,:not(.c){d:e}'],
  ['.a { &*.b { c: d } }', '.a{&*.b{c:d}}'],
];
