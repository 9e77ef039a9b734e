import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a { border: 1px solid currentColor; border-top: medium none red }', 'a{border:1px solid;border-top:red}'],
  ['a { list-style: none outside } b { list-style: outside disc }', 'a{list-style:none}b{list-style:disc}'],
  [
    'a { list-style: none disc outside } b { border: red none solid }',
    'a{list-style:none disc outside}b{border:red none solid}',
  ],
  [
    'a { text-decoration: underline solid currentcolor; columns: auto 2; flex-flow: row wrap }',
    'a{text-decoration:underline;columns:2;flex-flow:wrap}',
  ],
  [
    'a { border: none; column-rule: solid var(--x) currentcolor }',
    'a{border:none;column-rule:solid var(--x) currentcolor}',
  ],
];
