import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [['console.log(a()); debugger; b()', 'b()']];
