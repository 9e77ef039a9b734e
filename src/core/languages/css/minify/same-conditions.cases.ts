import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['@media print { a { top: 0 } } @media print { b { left: 0 } }', '@media print{a{top:0}b{left:0}}'],
  [
    '@media print { a { top: 0 } } i { left: 0 } @media print { b { right: 0 } }',
    '@media print{a{top:0}b{right:0}}i{left:0}',
  ],
  [
    '@media print { a { top: 0 } } i { top: 1px } @media print { b { top: 0 } }',
    '@media print{a{top:0}}i{top:1px}@media print{b{top:0}}',
  ],
];
