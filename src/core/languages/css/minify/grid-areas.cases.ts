import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  [`a { grid-template-areas: "dome  dome" ' ... hall ' }`, `a{grid-template-areas:"dome dome"".hall"}`],
  ['a { grid-template-areas: ". .. dome" }', 'a{grid-template-areas:". .dome"}'],
  ['a { grid-template: " dome . hall " 1fr / auto }', 'a{grid-template:"dome.hall"1fr/auto}'],
];
