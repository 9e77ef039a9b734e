import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a { background-position: left top, right bottom, center }', 'a{background-position:0 0,100% 100%,50%}'],
  [
    'a { background-position: center center, top, right 3px top 4px }',
    'a{background-position:50%,top,right 3px top 4px}',
  ],
  [
    'a { transform-origin: center center; perspective-origin: center top }',
    'a{transform-origin:50%;perspective-origin:top}',
  ],
  ['a { background-position: top left, 10px center, bottom center }', 'a{background-position:0 0,10px,bottom}'],
  [
    'a { background-position: 50% 50%, 10px 50%; object-position: left 50% } b { object-position: right top }',
    'a{background-position:50%,10px;object-position:left}b{object-position:right top}',
  ],
];
