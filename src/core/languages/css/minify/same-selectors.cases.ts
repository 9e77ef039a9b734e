import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a { color: red } a { top: 1px }', 'a{color:red;top:1px}'],
  ['a, b { color: red } i { top: 1px } b, a { left: 1px }', 'a,b{color:red;left:1px}i{top:1px}'],
  ['a { color: red } .i { color: blue } a { top: 0 }', 'a{color:red;top:0}.i{color:blue}'],
  ['a { margin: 1px } i { margin-top: 2px } a { margin-left: 3px }', 'a{margin:1px 1px 1px 3px}i{margin-top:2px}'],
  [
    'a { margin: 1px } i { margin-left: 2px } a { margin-left: 3px }',
    'a{margin:1px}i{margin-left:2px}a{margin-left:3px}',
  ],
  ['a { &:hover { color: red } &:hover { top: 0 } }', 'a{&:hover{color:red;top:0}}'],
];
