import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['try {} catch (x) { c(x) } finally { d() } return a', 'return d(),a'],
  ['try { a() } catch (x) { c(x) } finally {}', 'try{a()}catch(x){c(x)}'],
];
