import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  [
    'a { transform: translate(1px, 0) translate(0, 2px) translateX(3px) }',
    'a{transform:translate(1px) translateY(2px) translate(3px)}',
  ],
  [
    'a { transform: scale(2, 2) scale(1, 3) scale(2, 1) scaleX(2) }',
    'a{transform:scale(2) scaleY(3) scaleX(2) scaleX(2)}',
  ],
  ['a { transform: translate3d(0, 0, 0) translate3d(1px, 0, 0) }', 'a{transform:translateZ(0) translate3d(1px,0,0)}'],
  [
    'a { transform: rotate3d(0, 1, 0, 5deg) rotateZ(1deg) scale3d(1, 1, 2) }',
    'a{transform:rotateY(5deg) rotateZ(1deg) scaleZ(2)}',
  ],
];
