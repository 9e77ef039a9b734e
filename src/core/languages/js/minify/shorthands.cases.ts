import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['return { Math: Math, a: b }', 'return{Math,a:b}'],
  ["return { ['a']: 1, ['b c']: 2, ['__proto__']: 3 }", 'return{a:1,"b c":2,["__proto__"]:3}'],
];
