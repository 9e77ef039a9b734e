import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  [
    'a { margin: 0px; padding: 0em 0rem; transform: translate(0px, 0vw); box-shadow: 0px 0px 1px red }',
    'a{margin:0;padding:0;transform:translate(0);box-shadow:0 0 1px red}',
  ],
  [
    'a { transition: all 0s; flex: 2 1 0px; line-height: 0px; width: calc(0px + 1%); rotate: 0deg; opacity: 0% }',
    'a{transition:0s;flex:2 0px;line-height:0px;width:calc(0px + 1%);rotate:0deg;opacity:0%}',
  ],
  ['a { border-image-width: 0px; unknown: 0px; --x: 0px }', 'a{border-image-width:0px;unknown:0px;--x:0px}'],
  ['a { transform: rotate(0deg) skew(0turn) }', 'a{transform:rotate(0) skew(0)}'],
];
