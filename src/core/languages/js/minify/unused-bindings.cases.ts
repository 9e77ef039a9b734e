import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['var x = 1, y = a(), z; z = a(); return x', 'return a(),a(),1'],
  ['function x() { c() } class Y {} return a', 'return a'],
  ['return function x() {}', 'return function(){}'],
  ['try { a() } catch (x) { c() }', 'try{a()}catch{c()}'],
  ['(function (x, y, z) { for (;;) e(x, x) })(b, 2, a())', '(x=>{for(;;)e(x,x)})(b,2,a())'],
];
