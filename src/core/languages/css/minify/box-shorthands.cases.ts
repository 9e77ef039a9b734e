import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  [
    'a { margin: 1px 1px 1px 1px; padding: 1px 2px 1px 2px; inset: 1px 2px 3px 2px; border-width: 1px 2px 3px 4px }',
    'a{margin:1px;padding:1px 2px;inset:1px 2px 3px;border-width:1px 2px 3px 4px}',
  ],
  ['a { margin: var(--x) var(--x) }', 'a{margin:var(--x) var(--x)}'],
  ['a { border-radius: 1px 2px 1px 2px / 3px 3px; overflow: auto auto }', 'a{border-radius:1px 2px/3px;overflow:auto}'],
  [
    'a { border-radius: 1px / 1px; border-spacing: 1px 1px; gap: 1px 2px }',
    'a{border-radius:1px;border-spacing:1px;gap:1px 2px}',
  ],
  [
    'a { background-size: auto auto } b { background-size: 1px 1px }',
    'a{background-size:auto}b{background-size:1px 1px}',
  ],
];
