import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  ['@charset "utf-8"; a { b: c }', 'a{b:c}'],
  ['@charset "utf-8"; a { b: "ü" }', '@charset "utf-8";a{b:"ü"}'],
  ['@charset  "utf-8"; a { b: "ü" }', 'a{b:"ü"}'],
];
