import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['if (a) b()', 'a&&b()'],
  ['if (!a) b()', 'a||b()'],
  ['if (a) b(); else c()', 'a?b():c()'],
  ['if (a) return b; else return c', 'return a?b:c'],
  ['if (a) throw b; else throw c', 'throw a?b:c'],
  ['if (a) if (b) return c', 'if(a&&b)return c'],
  ['if (a) {} else b()', 'a||b()'],
  ['if (a()) {}', 'a()'],
  ['if (false) { var x = 1; a() } return x', 'var x;return x'],
  ['if (!a) { for (;;) b() } else return c', 'if(a)return c;for(;;)b()'],
];
