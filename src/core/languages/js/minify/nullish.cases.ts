import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['return a !== null && a !== undefined ? a : b', 'return a??b'],
  ['return a === null || a === void 0 ? b : a', 'return a??b'],
  ['return a !== null && a !== undefined ? a.b(c)[d] : undefined', 'return a?.b(c)[d]'],
  ['return a === null || a === undefined ? void 0 : a(b)', 'return a?.(b)'],
];
