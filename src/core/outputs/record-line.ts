import { isOutputPath } from '../files/project-path.js';
import { isTempFile } from '../files/temp-file.js';

/** One line of the record of outputs, as JSON. */
export type RecordLine =
  /** The first line of a file that was written on this machine: `identityOf` the file itself. */
  | { readonly record: 2; readonly identity: string }
  | { readonly output: string; readonly pipeline: string; readonly hash: string }
  | { readonly gone: string; readonly hashes: readonly string[] }
  /** An output that is no longer made, and the number of the build that retired it. */
  | { readonly retired: string; readonly build: number }
  | { readonly folder: string }
  | { readonly folderGone: string }
  /** Temporary files that a process is about to write. */
  | { readonly writing: readonly string[]; readonly by: number }
  | { readonly written: number }
  /** A process that builds, once or in a session; `since` distinguishes it from a later one with the same number. */
  | { readonly running: number; readonly since: string; readonly profile: string; readonly isSession: boolean }
  | { readonly ended: number };

/** The required fields of each kind of line, by the key that identifies the kind. */
const kinds: Readonly<Record<string, Readonly<Record<string, (value: unknown) => boolean>>>> = {
  record: { record: (value) => value === 2, identity: isText },
  output: { output: isOutputPath, pipeline: isText, hash: isHash },
  gone: { gone: isOutputPath, hashes: (value) => isListOf(value, isHash) },
  retired: { retired: isOutputPath, build: isPositive },
  folder: { folder: isOutputPath },
  folderGone: { folderGone: isOutputPath },
  writing: { writing: (value) => isListOf(value, isTempPath), by: isPositive },
  written: { written: isPositive },
  running: { running: isPositive, since: isText, profile: isText, isSession: (value) => typeof value === 'boolean' },
  ended: { ended: isPositive },
};

/**
 * Parses a line of the record. Everything in it is validated: the file may come from a checkout, and determines what is
 * removed.
 *
 * @returns undefined for an invalid line, such as one that a killed process left incomplete
 */
export function parseRecordLine(text: string): RecordLine | undefined {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return undefined;
  }
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return undefined;
  const fields = value as Record<string, unknown>;
  const name = Object.keys(kinds).find((key) => Object.hasOwn(fields, key));
  if (name === undefined) return undefined;
  const rules = kinds[name]!;
  const isValid =
    Object.keys(fields).length === Object.keys(rules).length &&
    Object.entries(rules).every(([key, accepts]) => Object.hasOwn(fields, key) && accepts(fields[key]));
  return isValid ? (value as RecordLine) : undefined;
}

function isText(value: unknown): boolean {
  return typeof value === 'string';
}

function isHash(value: unknown): boolean {
  return typeof value === 'string' && /^[\w-]{43}$/.test(value);
}

function isPositive(value: unknown): boolean {
  return Number.isSafeInteger(value) && (value as number) > 0;
}

function isTempPath(value: unknown): boolean {
  return isOutputPath(value) && isTempFile(value.slice(value.lastIndexOf('/') + 1));
}

function isListOf(value: unknown, accepts: (item: unknown) => boolean): boolean {
  return Array.isArray(value) && value.every(accepts);
}
