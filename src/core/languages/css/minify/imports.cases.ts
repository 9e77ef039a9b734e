import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['@import url( "a.css" ) layer( x ) screen ; @import url(b.css);', '@import"a.css" layer(x) screen;@import"b.css"'],
];
