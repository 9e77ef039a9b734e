import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  [
    'a { font-family: "Helvetica Neue", "serif", \'Font 2\', "A  B" }',
    'a{font-family:Helvetica Neue,"serif","Font 2","A  B"}',
  ],
  [
    'a { font: 1px/2 "Some Font" } @font-face { font-family: "Some Font" }',
    'a{font:1px/2 Some Font}@font-face{font-family:Some Font}',
  ],
];
