import { posix } from 'node:path';

/** A relative URL from a folder to a file, both relative to the project. */
export function urlBetween(folder: string, file: string): string {
  return posix.relative(folder, file).split('/').map(encodeURIComponent).join('/');
}
