import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a { margin: 0.50px 00.5em +1.0px -0.0px; opacity: .80 }', 'a{margin:.5px.5em 1px 0;opacity:.8}'],
  [
    'a { line-height: 1.0; width: 1.50E3px; z-index: 010; x: 1e+2 1e-2 }',
    'a{line-height:1;width:1.5e3px;z-index:10;x:1e2 1e-2}',
  ],
  ['a { width: 12345678901234567890.12345678901234567890px }', 'a{width:12345678901234567890.1234567890123456789px}'],
  ['a { width: calc(1px / -0.0) }', 'a{width:calc(1px/-0)}'],
  ['a { order: 2.0; z-index: +02; grid-row: 1.0 }', 'a{order:2.0;z-index:2;grid-row:1.0}'],
];
