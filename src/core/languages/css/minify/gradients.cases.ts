import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a { background: linear-gradient(to bottom, red, blue) }', 'a{background:linear-gradient(red,blue)}'],
  ['a { background: linear-gradient(180deg, red, blue) }', 'a{background:linear-gradient(red,blue)}'],
  [
    'a { background: radial-gradient(ellipse farthest-corner at 50% 50%, red, blue) }',
    'a{background:radial-gradient(red,blue)}',
  ],
  ['a { background: radial-gradient(circle at center, red, blue) }', 'a{background:radial-gradient(circle,red,blue)}'],
  [
    'a { background: linear-gradient(red 0, red 50%, blue 50%, blue 100%) }',
    'a{background:linear-gradient(red 0 50%,blue 50% 100%)}',
  ],
  ['a { background: -webkit-linear-gradient(top, red, blue) }', 'a{background:-webkit-linear-gradient(top,red,blue)}'],
];
