import type { Database, RootDatabase } from 'lmdb';
import { contentHash } from '../files/hash.js';

/** The entries of a store. */
export interface EntryDatabases {
  /** JSON texts behind their checksums, by the key of the job. */
  readonly traces: Database<Buffer, string>;
  /** By content hash. */
  readonly results: Database<Buffer, string>;
  /** The last use of each entry, by `t` or `r` and the key. */
  readonly uses: Database<number, string>;
}

export const entryDatabases = (root: RootDatabase): EntryDatabases => ({
  traces: root.openDB({ name: 'traces', encoding: 'binary' }),
  results: root.openDB({ name: 'results', encoding: 'binary' }),
  uses: root.openDB({ name: 'uses', encoding: 'json' }),
});

/** The length of a checksum: a content hash. */
const sumLength = contentHash('').length;

/** The text of an entry with its checksum, which also holds for its key. */
export function withChecksum(key: string, text: string): Buffer {
  return Buffer.from(`${contentHash(`${key}\0${text}`)}${text}`);
}

/** The text of an entry without its checksum; undefined if that is wrong. */
export function traceTextOf(key: string, bytes: Buffer): string | undefined {
  const all = bytes.toString('utf8');
  const text = all.slice(sumLength);
  return all.slice(0, sumLength) === contentHash(`${key}\0${text}`) ? text : undefined;
}

/** Reports whether a result has the content that its key names. */
export const isSoundResult = (hash: string, bytes: Uint8Array): boolean => contentHash(bytes) === hash;
