import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['switch (a) { case 1: b(); break; case 2: c(); break }', 'switch(a){case 1:b();break;case 2:c()}'],
  ['switch (a) { case 1: b(); break; default: }', 'switch(a){case 1:b()}'],
  ['switch (a()) { }', 'a()'],
];
