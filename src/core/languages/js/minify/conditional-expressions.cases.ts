import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['return a ? a : b', 'return a||b'],
  ['return a ? b : a', 'return a&&b'],
  ['return a ? true : false', 'return!!a'],
  ['return a == b ? true : false', 'return a==b'],
  ['return !a ? b : c', 'return a?c:b'],
  ['return a ? b(c) : b(d)', 'return b(a?c:d)'],
  ['return a ? b ? c : d : d', 'return a&&b?c:d'],
  ['return a ? c : b ? c : d', 'return a||b?c:d'],
  ['a ? b = c : b = d; return b', 'return a?c:d'],
  ['return a() ? b : b', 'return a(),b'],
];
