import { initSync, optimise } from '@jsquash/oxipng/codec/pkg/squoosh_oxipng.js';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';

const require = createRequire(import.meta.url);
let isReady = false;

/**
 * Recompresses the pixels of a PNG file without changing any.
 *
 * @param level from 1 to 6: how many ways are tried
 * @throws an error for a damaged file
 */
export function packPng(png: Uint8Array, level: number): Uint8Array {
  // The compiled code is a file of the package.
  if (!isReady) initSync(readFileSync(require.resolve('@jsquash/oxipng/codec/pkg/squoosh_oxipng_bg.wasm')));
  isReady = true;
  return optimise(png, level, false, false);
}
