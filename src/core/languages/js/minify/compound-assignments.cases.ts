import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['a = a + b; return a', 'return a+=b'],
  ['a = a * (b - c); d(a)', 'd(a*=b-c)'],
  ['a = b + a; return a', 'return a=b+a'],
];
