import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['function x(y) { for (;;) d(y) } return x(a)', 'return(y=>{for(;;)d(y)})(a)'],
  ['function x() { return x() } return a', 'function x(){return x()}return a'],
];
