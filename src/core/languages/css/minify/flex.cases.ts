import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a { flex: 1 1 auto; -webkit-flex: 0 0 auto }', 'a{flex:auto;-webkit-flex:none}'],
  ['a { flex: 2 1 10px; -webkit-flex: 1 1 0% }', 'a{flex:2 10px;-webkit-flex:1}'],
  ['a { flex: 1 1 0px; -ms-flex: 1 1 auto }', 'a{flex:1 0px;-ms-flex:1 1 auto}'],
  ['a { flex: 0 1 auto; -webkit-flex: 1 0 0% }', 'a{flex:0 auto;-webkit-flex:1 0}'],
];
