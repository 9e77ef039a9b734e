import { readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { crc32 } from 'node:zlib';
import { makeStoreFolder } from './store-folder.js';

/**
 * Keeps a value in a file of its own, by writing beside it and renaming. What cannot be kept is made again: problems
 * are no errors.
 */
export function keepValue(path: string, version: number, value: unknown): void {
  const text = JSON.stringify(value);
  const beside = `${path}.${String(process.pid)}`;
  try {
    makeStoreFolder(dirname(path));
    writeFileSync(beside, `${head(version, text)}\n${text}`);
    renameSync(beside, path);
  } catch {
    discard(beside);
  }
}

/** Removes a file if it can be removed. */
function discard(path: string): void {
  try {
    rmSync(path, { force: true });
  } catch {
    // It was never there.
  }
}

/** Takes up a value that was kept; nothing when there is none, or it is damaged, or of another version. */
export function keptValue(path: string, version: number): unknown {
  try {
    const text = readFileSync(path, 'utf8');
    const end = text.indexOf('\n');
    const body = text.slice(end + 1);
    return text.slice(0, end) === head(version, body) ? JSON.parse(body) : undefined;
  } catch {
    return undefined;
  }
}

function head(version: number, text: string): string {
  return `${String(version)} ${crc32(text).toString(16)}`;
}
