import type { ScriptCase } from './rewrite.js';

export const cases: readonly ScriptCase[] = [
  ['a(); b(); return c', 'return a(),b(),c'],
  ['a(); if (b) { for (;;) c() } else throw d', 'if(a(),!b)throw d;for(;;)c()'],
  ['a(); throw b', 'throw a(),b'],
  ['a(); for (; b; ) c()', 'for(a();b;)c()'],
  ['a(); for (c in b) d(c)', 'for(c in a(),b)d(c)'],
  ['a(); switch (b) { case 1: c(), d() }', 'switch(a(),b){case 1:c(),d()}'],
  ['"use strict"; a(); b()', '"use strict";a(),b()'],
];
