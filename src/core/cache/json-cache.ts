import { closeSync, fstatSync, readFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { crc32 } from 'node:zlib';
import { identityOf, openRegularFile } from '../files/regular-file.js';
import { makeIgnoredFolder, replaceFile } from '../files/write-file.js';

/**
 * Writes a value to a cache file. Failures are ignored, because cached values can be computed again. The file contains
 * its own identity on this machine, so that a file from a checkout is not accepted: cache files determine what is read,
 * written and skipped.
 */
export function writeJsonCache(path: string, version: number, value: unknown): void {
  const text = JSON.stringify(value);
  try {
    makeIgnoredFolder(dirname(path));
    replaceFile(path, (identity) => `${head(version, text, identity)}\n${text}`);
  } catch {
    // The next run does without it.
  }
}

/** Reads a value from a cache file; undefined if there is none, or if it is damaged, copied, or of another version. */
export function readJsonCache(path: string, version: number): unknown {
  try {
    const file = openRegularFile(path, { followsLinks: false });
    try {
      const identity = identityOf(fstatSync(file, { bigint: true }));
      const text = readFileSync(file, 'utf8');
      const end = text.indexOf('\n');
      const body = text.slice(end + 1);
      return text.slice(0, end) === head(version, body, identity) ? JSON.parse(body) : undefined;
    } finally {
      closeSync(file);
    }
  } catch {
    return undefined;
  }
}

function head(version: number, text: string, identity: string): string {
  return `${String(version)} ${crc32(text).toString(16)} ${identity}`;
}
