import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['if (!!a) b()', 'a&&b()'],
  ['return !(a == b) || !(c === d && e)', 'return a!=b||!(c===d&&e)'],
  ['for (; a && true; ) b()', 'for(;a;)b()'],
  ['return (!a && !b) ? c : d', 'return a||b?d:c'],
  ['return !(!a)', 'return!!a'],
  ['while ((a == b) === false) c()', 'for(;a!=b;)c()'],
];
