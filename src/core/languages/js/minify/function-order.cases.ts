import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [['a(x); function x() { c() } d(x)', 'function x(){c()}a(x),d(x)']];
