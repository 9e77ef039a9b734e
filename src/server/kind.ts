import { posix } from 'node:path';
import type { FileKind } from './message.js';

const kinds: Readonly<Record<string, FileKind>> = {
  '.css': 'style',
  ...Object.fromEntries(
    ['.png', '.jpg', '.jpeg', '.gif', '.svg', '.webp', '.avif', '.ico', '.bmp'].map((one) => [one, 'image' as const]),
  ),
  ...Object.fromEntries(['.woff2', '.woff', '.ttf', '.otf'].map((one) => [one, 'font' as const])),
};

/** The way in which a page can apply a changed file. */
export function fileKindOf(path: string): FileKind {
  return kinds[posix.extname(path).toLowerCase()] ?? 'other';
}
