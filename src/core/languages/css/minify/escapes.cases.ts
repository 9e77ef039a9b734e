import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['.\\66 ern, #\\000066 ern, .\\0031 0 { a: b }', '.fern,#fern,.\\31 0{a:b}'],
  ['.h\\:i, .\\68\\3a i { a: b }', '.h\\:i{a:b}'],
];
