import { posix } from 'node:path';

/** A relative URL from a folder to a file, both relative to the project. `@` is not escaped (RFC 3986, section 3.3). */
export function urlBetween(folder: string, file: string): string {
  return posix.relative(folder, file).split('/').map(encodeURIComponent).join('/').replaceAll('%40', '@');
}
