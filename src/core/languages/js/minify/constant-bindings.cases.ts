import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['const x = 5; return a(x, x)', 'return a(5,5)'],
  ['var x = "a long text"; return a + x', 'return a+"a long text"'],
  ['a(); var x = 5; return () => x', 'a();var x=5;return()=>x'],
];
