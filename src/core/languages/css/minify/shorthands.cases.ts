import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a { margin-top: 1px; margin-right: 2px; margin-bottom: 1px; margin-left: 2px }', 'a{margin:1px 2px}'],
  ['a { padding: 1px; padding-left: 2px }', 'a{padding:1px 1px 1px 2px}'],
  ['a { padding: 1px; all: unset; padding-left: 2px }', 'a{padding:1px;all:unset;padding-left:2px}'],
  ['a { top: 0; right: 0; bottom: 0; left: 0 }', 'a{inset:0}'],
  ['a { overflow-x: hidden; overflow-y: auto; row-gap: 1px; column-gap: 1px }', 'a{overflow:hidden auto;gap:1px}'],
  ['a { border-top-width: 1px; border-top-style: solid; border-top-color: red }', 'a{border-top:1px solid red}'],
  ['a { border-top-width: 1px; border-top-style: solid }', 'a{border-top-width:1px;border-top-style:solid}'],
  [
    'a { margin-top: 1px; margin-right: var(--x); margin-bottom: 1px; margin-left: 2px }',
    'a{margin-top:1px;margin-right:var(--x);margin-bottom:1px;margin-left:2px}',
  ],
  [
    'a { list-style-type: none; list-style-position: inside; list-style-image: url(x) }',
    'a{list-style:none inside url(x)}',
  ],
  [
    'a { flex-grow: 1; flex-shrink: 1; flex-basis: auto; flex-direction: row; flex-wrap: wrap }',
    'a{flex:auto;flex-flow:wrap}',
  ],
  [
    'a { grid-row-start: 1; grid-row-end: 3; outline-width: 1px; outline-style: solid; outline-color: red }',
    'a{grid-row:1/3;outline:1px solid red}',
  ],
  [
    'a { margin-top: 1px; margin-right: 1px; margin-bottom: 1px!important; margin-left: 1px }',
    'a{margin-top:1px;margin-right:1px;margin-bottom:1px!important;margin-left:1px}',
  ],
];
