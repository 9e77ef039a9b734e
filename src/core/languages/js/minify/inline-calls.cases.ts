import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['return (x => d(x, x))(a())', 'return d(a=a(),a)'],
  ['return (() => ({ a }))()', 'return{a}'],
  ['var x = (y => { for (; y; ) b(y); return c })(a()); return x + x', 'for(a=a();a;)b(a);return c+c'],
  ['for (; a; ) b((x => () => x)(a()))', 'for(;a;)b((x=>()=>x)(a()))'],
  ['return (() => a.b)()()', 'return(0,a.b)()'],
];
