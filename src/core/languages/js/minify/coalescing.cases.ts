import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['var x = d(a); return x + x', 'return(a=d(a))+a'],
  ['let x = d(a), y = e(x, x, b); return f(y, y)', 'return f(b=e(a=d(a),a,b),b)'],
  ['var x = a; d(); return x + a', 'return d(),a+a'],
  ['var x = a, y = d(); e(x); return y + y', 'return d=d(),e(a),d+d'],
  ['var x = d(); return () => x++', 'var x=d();return()=>x++'],
  ['for (; a(); ) { var x = d(); e(x, x) }', 'for(;a();)e(h=d(),h)'],
];
