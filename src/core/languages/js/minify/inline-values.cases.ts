import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['var x = ([a] = [b], c); d([a, x])', 'var x=([a]=[b],c);d([a,x])'],
  ['var x = a(); return x', 'return a()'],
  ['var x = a.c; return x.d + a', 'return a.c.d+a'],
  ['var x = a(); return b() + x', 'var x=a();return b()+x'],
  ['var x = a(), y = b(); return x + y', 'return a()+b()'],
  ['a = b(); if (a) c(a)', '(a=b())&&c(a)'],
  ['var x = a.b; return x()', 'var x=a.b;return x()'],
  ['let x = y; let y; return x(a)', 'let x=y,y;return x(a)'],
  ['return function x() { x = 1; return x }', 'return function x(){return x=1,x}'],
  ['var x = a; a = b; return x', 'var x=a;return a=b,x'],
];
