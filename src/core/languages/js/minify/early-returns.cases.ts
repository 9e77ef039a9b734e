import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['if (a) return b; return c', 'return a?b:c'],
  ['if (a) return b; if (c) return d; return e', 'return a?b:c?d:e'],
  ['if (a) return; b()', 'a||b()'],
  ['if (a) { b(); return } c()', 'a?b():c()'],
  ['if (a) return b; else { for (;;) c() }', 'if(a)return b;for(;;)c()'],
  ['if (a) return; for (;;) b()', 'if(!a)for(;;)b()'],
  ['a(); return; ', 'a()'],
  ['return void 0', ''],
  ['for (;;) { if (a) continue; b() }', 'for(;;)a||b()'],
  ['if (a) throw b; throw c', 'throw a?b:c'],
  ['for (;;) { if (a) break; if (b) break; c() }', 'for(;!a&&!b;)c()'],
  ['if (a) return b; if (c) return d; e()', 'return a?b:c?d:void e()'],
];
