import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['while (a) b()', 'for(;a;)b()'],
  ['while (true) { if (a) break; b() }', 'for(;!a;)b()'],
  ['while (1) a()', 'for(;;)a()'],
  ['for (a(); false; b()) c()', 'a()'],
  ['for (;;) { if (a) { b() } else break }', 'for(;a;)b()'],
];
