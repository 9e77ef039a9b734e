import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['a = a; return a', 'return a'],
  ['var a; return a', 'return a'],
  ['var a = a, x = b(); return x + x + a', 'var x=b();return x+x+a'],
];
