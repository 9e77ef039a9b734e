import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['1; a; a + b; a.b; !c(); void d()', 'a+b,a.b,c(),d()'],
  ['a === b, [a, c(), "x"], ({ d: d() }), function () {}', 'c(),d()'],
  ['a ? b() : c; a && (b(), c); (a(), b, c())', 'a&&b(),a&&b(),a(),c()'],
  [
    '(true ? a.b : c)(); (false || a.b)`d`; (0, a.b)(); delete (a.b, c.d)',
    '(0,a.b)(),(0,a.b)`d`,(0,a.b)(),delete(a.b,c.d)',
  ],
  ['for (a, b(); ; c, d()) e()', 'for(b();;d())e()'],
  ['/* #__PURE__ */ a(b, c()); /* @__PURE__ */ new d', 'a(b,c())'],
];
