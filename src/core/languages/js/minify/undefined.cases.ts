import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['return [undefined, Infinity, typeof undefined]', 'return[void 0,1/0,"undefined"]'],
];
