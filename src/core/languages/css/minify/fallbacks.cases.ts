import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a { width: var(--a, 00.50em) }', 'a{width:var(--a,.5em)}'],
  ['a { margin: var(--a, 10.0px 050% 0.50) }', 'a{margin:var(--a,10px 50% .5)}'],
  ['a { z-index: var(--a, 1.0); --b: var(--a, 0.50em) }', 'a{z-index:var(--a,1.0);--b:var(--a, 0.50em)}'],
  ['a { width: calc(1px + var(--a, calc(2px - -0.0em))) }', 'a{width:calc(1px + var(--a,calc(2px - -0em)))}'],
];
