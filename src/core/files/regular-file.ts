import {
  closeSync,
  constants,
  fstatSync,
  lstatSync,
  openSync,
  readFileSync,
  readSync,
  type BigIntStats,
} from 'node:fs';
import { createHash } from 'node:crypto';

/** The size of the buffer for hashing files, in bytes. */
const pieceSize = 1 << 20;

/**
 * Opens a file for reading, if it is a regular file: a named pipe or a device could block or never end.
 *
 * @param followsLinks whether it may be a symbolic link to one
 * @throws the system's error if an existing file cannot be opened, an error with the code `EISDIR` or `EINVAL` if it is
 *   not a regular file
 */
export function openRegularFile(path: string, { followsLinks = true } = {}): number {
  const { O_RDONLY, O_NONBLOCK = 0, O_NOFOLLOW = 0 } = constants;
  const file = openSync(path, O_RDONLY | O_NONBLOCK | (followsLinks ? 0 : O_NOFOLLOW));
  const stats = fstatSync(file);
  if (stats.isFile()) return file;
  closeSync(file);
  const code = stats.isDirectory() ? 'EISDIR' : 'EINVAL';
  throw Object.assign(new Error(`${path} is not a regular file`), { code });
}

/** The content of a regular file; errors are those of `openRegularFile`. */
export function readRegularFile(path: string): Buffer {
  const file = openRegularFile(path);
  try {
    return readFileSync(file);
  } finally {
    closeSync(file);
  }
}

/**
 * Hashes a regular file in chunks.
 *
 * @returns its content hash, as from `contentHash`, and its size in bytes; errors are those of `openRegularFile`
 */
export function hashRegularFile(path: string): { hash: string; size: number } {
  const file = openRegularFile(path);
  try {
    const hash = createHash('sha256');
    const piece = Buffer.allocUnsafe(pieceSize);
    let size = 0;
    for (let length = readSync(file, piece); length > 0; length = readSync(file, piece)) {
      hash.update(piece.subarray(0, length));
      size += length;
    }
    return { hash: hash.digest('base64url'), size };
  } finally {
    closeSync(file);
  }
}

/** Two numbers that identify a file on this machine and that the author of its content cannot predict. */
export function identityOf({ ino, birthtimeNs }: BigIntStats): string {
  return `${String(ino)} ${String(birthtimeNs)}`;
}

/** Reports whether a path is a symbolic link itself. */
export function isLink(path: string): boolean {
  try {
    return lstatSync(path, { throwIfNoEntry: false })?.isSymbolicLink() ?? false;
  } catch {
    return false;
  }
}
