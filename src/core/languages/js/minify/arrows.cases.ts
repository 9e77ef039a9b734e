import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['return () => { return a }', 'return()=>a'],
  ['return x => { return { b: x } }', 'return x=>({b:x})'],
  ['return function (x) { for (;;) b(x) }(a)', 'return(x=>{for(;;)b(x)})(a)'],
];
