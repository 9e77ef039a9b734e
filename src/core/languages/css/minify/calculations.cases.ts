import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['a { width: calc(1px + 2px) }', 'a{width:3px}'],
  ['a { width: calc(100% - (1px + 2 * 3px)) }', 'a{width:calc(100% - 7px)}'],
  ['a { width: calc(100% / 4); height: calc(100% / 3) }', 'a{width:25%;height:calc(100%/3)}'],
  ['a { margin: calc(-1 * 5px); padding: calc(-1 * 5px) }', 'a{margin:-5px;padding:calc(-5px)}'],
  ['a { width: calc(2 * calc(1em + 1px)) }', 'a{width:calc(2em + 2px)}'],
  ['a { left: calc(50% - -5px); top: calc(-5px + 1em) }', 'a{left:calc(50% + 5px);top:calc(1em - 5px)}'],
  ['a { width: min(10px, 2px); height: clamp(1em, 3em, 2em) }', 'a{width:2px;height:2em}'],
  ['a { width: calc(min(1em, 2px)); order: calc(1 + 1) }', 'a{width:min(1em,2px);order:2}'],
  ['a { width: calc(1px + var(--x) + 2px) }', 'a{width:calc(1px + var(--x) + 2px)}'],
  ['a { width: calc(100% + 0px); line-height: calc(30 / 20) }', 'a{width:calc(100% + 0px);line-height:calc(1.5)}'],
];
