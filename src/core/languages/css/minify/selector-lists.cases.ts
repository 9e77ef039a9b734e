import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  [':is(.a, .b, .a) { c: d } :not(a, a) { e: f }', ':is(.a,.b){c:d}:not(a){e:f}'],
  [':is(.a, :is(.b, c)) { d: e } :where(:where(a), b) { f: g }', ':is(.a,.b,c){d:e}:where(a,b){f:g}'],
  [':not(:is(a, .b)) { d: e }', ':not(a,.b){d:e}'],
  ['a:is(.b.c) > :is([d]) { e: f }', 'a.b.c>[d]{e:f}'],
  [
    ':is(a).b { c: d } :is(.e .f) { c: g } :where(.h) { c: i } :is(:unheard-of) { j: k } :is(:where(.l), .m) { n: o }',
    ':is(a).b{c:d}:is(.e .f){c:g}:where(.h){c:i}:is(:unheard-of){j:k}:is(:where(.l),.m){n:o}',
  ],
];
