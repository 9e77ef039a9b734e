import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  [
    'a { transition-duration: 300ms; transition-delay: 1500ms, 5ms }',
    'a{transition-duration:.3s;transition-delay:1.5s,5ms}',
  ],
  ['a { animation-delay: 0ms; animation-duration: -200ms }', 'a{animation-delay:0s;animation-duration:-.2s}'],
];
