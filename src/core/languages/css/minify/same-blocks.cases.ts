import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a { color: red } b { color: red }', 'a,b{color:red}'],
  ['a { color: red } i { top: 0 } b { color: red }', 'a,b{color:red}i{top:0}'],
  ['a { color: red } i { color: tan } b { color: red }', 'a{color:red}i{color:tan}b{color:red}'],
  ['a { color: red } ::-webkit-thing { color: red }', 'a{color:red}::-webkit-thing{color:red}'],
  ['a:hover { top: 0 } .b:hover { top: 0 } :unheard-of { top: 0 }', 'a:hover,.b:hover{top:0}:unheard-of{top:0}'],
  ['@keyframes x { 0% { top: 0 } 50% { left: 1px } to { top: 0 } }', '@keyframes x{0%,to{top:0}50%{left:1px}}'],
  ['a { & b { color: red } & i { color: red } }', 'a{& b,& i{color:red}}'],
];
