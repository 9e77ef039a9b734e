import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a { transition: all 0.3s ease 0s, opacity 1s linear 0s }', 'a{transition:.3s,opacity 1s linear}'],
  [
    'a { transition: all 0s } b { transition: none } i { transition: all }',
    'a{transition:0s}b{transition:none}i{transition:all}',
  ],
  ['a { animation: glow 1s ease 0s 1 normal none running }', 'a{animation:glow 1s}'],
  ['a { animation: none 1s } b { animation: ease 1s ease }', 'a{animation:none 1s}b{animation:ease 1s ease}'],
];
