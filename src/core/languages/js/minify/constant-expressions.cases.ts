import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['return 60 * 60 * 24', 'return 86400'],
  ['return "a" + "b" + a + "c" + 1 + "d"', 'return"ab"+a+"c1d"'],
  ['return [1 / 3, "5" * "2", 1 < 2, null == undefined, typeof 1]', 'return[1/3,10,!0,!0,"number"]'],
  ['return [-0, 0 * -1, ~5, "x".length, 7 % 4, 2 ** 10, 1 << 4]', 'return[-0,-0,-6,1,3,1024,16]'],
  ['return typeof function () {} == "function" ? a : b', 'return a'],
  ['return [a && 0 || b, true && a, false || b, null ?? c, "d" ?? e]', 'return[b,a,b,c,"d"]'],
  ['return `a${1}b${"c"}${a}`', 'return`a1bc${a}`'],
  ['return [`a`, "b\\nc", "one\\ntwo\\nthree\\n`\\n"]', 'return["a","b\\nc",`one\ntwo\nthree\n\\`\n`]'],
];
