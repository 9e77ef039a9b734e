import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  [
    'a { } @media print { b { } } @supports (c: d) { } @layer e { } @keyframes f { } @font-face { }',
    '@layer e{}@keyframes f{}@font-face{}',
  ],
];
