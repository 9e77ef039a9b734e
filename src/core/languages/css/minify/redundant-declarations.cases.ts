import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a { scroll-margin: 2px; scroll-margin: calc(10% - 1px) }', 'a{scroll-margin:2px;scroll-margin:calc(10% - 1px)}'],
  ['a { color: red; top: 0; color: blue }', 'a{top:0;color:blue}'],
  ['a { margin-top: 1px; margin: 2px }', 'a{margin:2px}'],
  ['a { color: red !important; color: blue }', 'a{color:red!important;color:blue}'],
  ['a { color: red; color: unheard-of(1) }', 'a{color:red;color:unheard-of(1)}'],
  ['a { display: block; display: ruby; display: unheard-of }', 'a{display:block;display:ruby;display:unheard-of}'],
  [
    'a { width: 100px; width: 10rcap; height: 1px; height: 2px\\9 }',
    'a{width:100px;width:10rcap;height:1px;height:2px\\9 }',
  ],
  ['a { --x: 1; --x: 2; color: red; color: var(--x) }', 'a{--x:2;color:var(--x)}'],
];
