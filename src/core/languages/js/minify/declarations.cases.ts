import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['var x = a(); var y = a(); return x + y + x + y', 'var x=a(),y=a();return x+y+x+y'],
  ['const x = a(); return x + x', 'let x=a();return x+x'],
  ['var x; x = a(); return x + x', 'var x=a();return x+x'],
  ['var x = 0; for (; x < a; x++) c(x)', 'for(var x=0;x<a;x++)c(x)'],
  ['var x; for (x = 0; x < a; x++) c(x)', 'for(var x=0;x<a;x++)c(x)'],
];
