import { posix } from 'node:path';

/** The number of hexadecimal digits of a content hash in a name. */
const digits = 10;

/**
 * The path of an output under a name with a hash of its content.
 *
 * @param digest SHA-256 in base64url
 * @example publishedPath('site/css/main.css', digest) // 'site/css/main-3f2a9c1b04.css'
 */
export function publishedPath(path: string, digest: string): string {
  return posix.join(posix.dirname(path), withHash(posix.basename(path), digest));
}

/** A file name with a hash before its extension. File systems may ignore case, so that the hash is hexadecimal. */
export function withHash(name: string, digest: string): string {
  const hash = Buffer.from(digest, 'base64url').toString('hex').slice(0, digits);
  const end = name.lastIndexOf('.');
  return `${name.slice(0, end)}-${hash}${name.slice(end)}`;
}
