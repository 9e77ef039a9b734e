import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a { font: normal normal bold 12px/normal "A B" }', 'a{font:700 12px A B}'],
  ['a { font: normal 400 1em/2 x, normal } b { font: menu }', 'a{font:1em/2 x,normal}b{font:menu}'],
];
