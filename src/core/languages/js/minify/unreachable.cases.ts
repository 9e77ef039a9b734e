import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['return a; b(); c()', 'return a'],
  ['for (;;) { if (a) { break; b() } c() }', 'for(;!a;)c()'],
  ['return x(); var y = 1; function x() { return y + y }', 'var y;return(()=>y+y)()'],
];
