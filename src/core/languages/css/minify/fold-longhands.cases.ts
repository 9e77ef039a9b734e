import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a { border: 1px solid red; border-color: blue }', 'a{border:1px solid blue}'],
  ['a { border-top: solid; border-top-width: 2px; border-top-color: tan }', 'a{border-top:2px solid tan}'],
  ['a { border: 1px solid red; border-color: blue tan }', 'a{border:1px solid red;border-color:blue tan}'],
  [
    'a { border: 1px solid red; border-top: 0; border-color: blue }',
    'a{border:1px solid red;border-top:0;border-color:blue}',
  ],
  ['a { font: 12px/1.5 x, serif; font-weight: bold; line-height: 2 }', 'a{font:700 12px/2 x,serif}'],
  ['a { font: italic 12px x; font-style: normal; font-family: y, z }', 'a{font:12px y,z}'],
  ['a { background: red; background-color: blue }', 'a{background:blue}'],
  ['a { background: url(x) 0 0 tan; background-color: blue }', 'a{background:url(x) blue}'],
  ['a { background: tan, blue; background-color: red }', 'a{background:tan,blue;background-color:red}'],
  ['a { transition: color 1s; transition-delay: 2s }', 'a{transition:color 1s 2s}'],
  ['a { transition: color; transition-delay: 2s }', 'a{transition:color;transition-delay:2s}'],
  [
    'a { animation: glow 1s; animation-iteration-count: infinite; animation-delay: 2s }',
    'a{animation:1s 2s infinite glow}',
  ],
  ['a { animation: glow 1s, fade 2s; animation-delay: 2s }', 'a{animation:glow 1s,fade 2s;animation-delay:2s}'],
  [
    'a { border: 1px solid red; all: unset; border-color: blue }',
    'a{border:1px solid red;all:unset;border-color:blue}',
  ],
  ['a { font: 12px x; font-weight: 500 !important }', 'a{font:12px x;font-weight:500!important}'],
];
