import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a { grid-area: 1 / 1 / auto / auto; grid-row: 2 / auto }', 'a{grid-area:1/1;grid-row:2}'],
  ['a { grid-area: hall / hall / hall / hall; grid-column: hall / hall }', 'a{grid-area:hall;grid-column:hall}'],
  ['a { grid-area: hall / 1 / auto / auto }', 'a{grid-area:hall/1/auto}'],
  ['a { grid-row: hall / auto; grid-column: span 2 / auto }', 'a{grid-row:hall/auto;grid-column:span 2/auto}'],
];
