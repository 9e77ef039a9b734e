import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  [
    'a { transition-timing-function: steps(4, end), steps(3, jump-end), steps(2, start) }',
    'a{transition-timing-function:steps(4),steps(3),steps(2,start)}',
  ],
  ['a { animation-timing-function: steps(1, start), steps(1) }', 'a{animation-timing-function:step-start,step-end}'],
];
