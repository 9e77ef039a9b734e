import type { LinkedPart } from '../assets/asset.js';
import type { Diagnostic } from '../diagnostics/index.js';
import type { PictureVariants } from '../languages/html/picture-variants.js';
import type { FileReferences } from '../languages/references/reference.js';

/**
 * One lookup of a job and its result.
 *
 * - `file`: the content hash; `null` if the file did not exist.
 * - `presence`: whether the file existed.
 * - `list`: the hash of the list of files that matched a glob.
 * - `claim`: whether a pipeline certainly writes a file with this path.
 * - `env`: the hash of an environment variable; `null` if it was not set.
 * - `constant`: the hash of the value of a constant; `null` if there was none with this name.
 */
export type Read =
  | readonly [kind: 'file', path: string, seen: string | null]
  | readonly [kind: 'presence', path: string, seen: boolean]
  | readonly [kind: 'claim', path: string, seen: boolean]
  | readonly [kind: 'list', glob: string, seen: string]
  | readonly [kind: 'env' | 'constant', name: string, seen: string | null];

/** Reports whether a read is of a file. */
export const isOfFile = ([kind]: Read): boolean => kind === 'file' || kind === 'presence';

/** An asset without its bytes: they, and its source map, are stored by their content hashes. */
export interface AssetRef {
  readonly id: string;
  readonly path: string;
  readonly hash: string;
  readonly origins: readonly string[];
  readonly isPristine: boolean;
  /** The content hash of its source map, as JSON. */
  readonly map?: string;
  /** What its text refers to, if the step that wrote it knows. */
  readonly references?: FileReferences;
  /** The modules that are linked into it. */
  readonly linked?: readonly LinkedPart[];
  /** What pages can show in its place, for pictures. */
  readonly variants?: PictureVariants;
}

/** Stands for the hash of content that is only known after a job has run, in forecasts. */
export const unknownHash = '?';

/**
 * The files that a job read, and its results. A job is skipped if its key is known and every file in its trace is
 * unchanged.
 */
export interface Trace {
  readonly reads: readonly Read[];
  readonly assets: readonly AssetRef[];
  readonly diagnostics: readonly Diagnostic[];
  /** True if some diagnostic would point further with source maps. */
  readonly needsSourceMap: boolean;
}

/** Reports whether a value from a store has the form of a trace: everything that reading it relies on. */
export function isTrace(value: unknown): value is Trace {
  return (
    isRecord(value) &&
    isListOf(value['reads'], isRead) &&
    isListOf(value['assets'], isAssetRef) &&
    isListOf(value['diagnostics'], isStoredDiagnostic) &&
    typeof value['needsSourceMap'] === 'boolean'
  );
}

const isRecord = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

const isListOf = (value: unknown, isItem: (item: unknown) => boolean): boolean =>
  Array.isArray(value) && value.every(isItem);

const isText = (value: unknown): value is string => typeof value === 'string';
const isOffset = (value: unknown): boolean => Number.isSafeInteger(value) && (value as number) >= 0;
const isAbsentOr = (value: unknown, test: (value: unknown) => boolean): boolean => value === undefined || test(value);

function isRead(value: unknown): boolean {
  if (!Array.isArray(value) || value.length !== 3) return false;
  const [kind, name, seen] = value as unknown[];
  if (!isText(name)) return false;
  if (kind === 'presence' || kind === 'claim') return typeof seen === 'boolean';
  if (kind === 'list') return isText(seen);
  return (kind === 'file' || kind === 'env' || kind === 'constant') && (seen === null || isText(seen));
}

function isAssetRef(value: unknown): boolean {
  if (!isRecord(value) || ![value['id'], value['path'], value['hash']].every(isText)) return false;
  return (
    isListOf(value['origins'], isText) &&
    typeof value['isPristine'] === 'boolean' &&
    isAbsentOr(value['map'], isText) &&
    isAbsentOr(value['references'], isFileReferences) &&
    isAbsentOr(value['linked'], (linked) => isListOf(linked, (one) => isRecord(one) && isText(one['source']))) &&
    isAbsentOr(value['variants'], (variants) => isRecord(variants) && isListOf(variants['sets'], isRecord))
  );
}

const isRange = (value: unknown): boolean => isRecord(value) && isOffset(value['start']) && isOffset(value['end']);

const isFileReferences = (value: unknown): boolean =>
  isRecord(value) &&
  isListOf(value['references'], (one) => isRange(one) && isText((one as { url?: unknown }).url)) &&
  isAbsentOr(value['exports'], (names) => isListOf(names, isText)) &&
  isAbsentOr(value['stars'], (names) => isListOf(names, isText)) &&
  isAbsentOr(value['importMap'], (names) => isListOf(names, isText)) &&
  isAbsentOr(value['texts'], (texts) => isListOf(texts, isRange));

const isStoredDiagnostic = (value: unknown): boolean =>
  isRecord(value) &&
  [value['code'], value['message'], value['hint']].every(isText) &&
  /^(error|warning|note)$/.test(String(value['severity'])) &&
  isAbsentOr(value['file'], isText) &&
  isAbsentOr(value['range'], (range) => isRecord(range) && isRecord(range['start']) && isRecord(range['end'])) &&
  isAbsentOr(value['frame'], (frame) => isRecord(frame) && isListOf(frame['lines'], isText));
