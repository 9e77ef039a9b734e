import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['return typeof a === "string"', 'return"string"==typeof a'],
  ['return a === 1 || b !== "x"', 'return 1===a||"x"!==b'],
  ['return [typeof a == "undefined", "undefined" !== typeof b]', 'return[typeof a>"u",typeof b<"u"]'],
  ['return !a === (b > c)', 'return!a==b>c'],
];
