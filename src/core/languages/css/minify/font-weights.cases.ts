import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  [
    'a { font: bold 1px x } i { font-weight: bold } b { font: italic 1px bold-face } u { font-weight: normal }',
    'a{font:700 1px x}i{font-weight:700}b{font:italic 1px bold-face}u{font-weight:400}',
  ],
];
