import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a { background: transparent none repeat scroll 0 0 }', 'a{background:0 0}'],
  ['a { background: none; background-image: none }', 'a{background:0 0;background-image:none}'],
  ['a { background: url(x) no-repeat scroll center center }', 'a{background:url(x) no-repeat 50%}'],
  [
    'a { background: url(x) 0 0 / auto auto, url(y) left top / cover }',
    'a{background:url(x) 0 0/auto auto,url(y) 0 0/cover}',
  ],
  [
    'a { background-repeat: repeat no-repeat, no-repeat repeat, space space }',
    'a{background-repeat:repeat-x,repeat-y,space}',
  ],
];
