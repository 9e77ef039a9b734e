import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  [
    'a::before, b::AFTER, c::first-line, d::placeholder, e::part(x) { f: g }',
    'a:before,b:after,c:first-line,d::placeholder,e::part(x){f:g}',
  ],
];
