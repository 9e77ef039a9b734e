import { existsSync, mkdirSync, renameSync, rmdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join, posix } from 'node:path';
import { diagnostic, type Diagnostic } from '../diagnostics/index.js';
import { besideName } from './beside.js';
import { reasonOfState, type FileTable } from './file-table.js';
import type { OutputRecord } from './record.js';
import { reasonOf } from './reason.js';

/** A file to publish, relative to the project. */
export interface NewOutput {
  readonly path: string;
  /** The content hash of what it is to hold. */
  readonly hash: string;
}

/** What became of an output: written, found already right, or kept because somebody changed it by hand. */
export type OutputState = 'written' | 'right' | 'kept';

/** What publishing did. */
export interface Published {
  /** Empty when something kept the outputs from being published. */
  readonly states: ReadonlyMap<string, OutputState>;
  readonly removed: readonly string[];
  readonly diagnostics: readonly Diagnostic[];
}

/** Where outputs are published, and whether files that are not the tool's may be replaced. */
export interface Place {
  readonly root: string;
  readonly files: FileTable;
  readonly record: OutputRecord;
  readonly force: boolean;
}

/** What publishing is going to do with outputs of a pipeline. */
export interface Intent<Output extends NewOutput = NewOutput> {
  readonly states: ReadonlyMap<string, OutputState>;
  /** The outputs among them that have to be written. */
  readonly pending: readonly Output[];
  readonly right: readonly Output[];
  readonly diagnostics: readonly Diagnostic[];
}

/** Finds out what publishing has to do; files whose bytes are right already are left alone. */
export function intend<Output extends NewOutput>(outputs: readonly Output[], place: Place): Intent<Output> {
  const diagnostics: Diagnostic[] = [];
  const states = new Map<string, OutputState>();
  const pending: Output[] = [];
  const right: Output[] = [];
  for (const output of outputs) {
    const { path, hash } = output;
    if (place.files.state(path) === hash) {
      states.set(path, 'right');
      right.push(output);
    } else {
      const found = look(path, place);
      if (found.hash === hash) {
        states.set(path, 'right');
        right.push(output);
      } else if (found.blocked !== undefined)
        diagnostics.push(diagnostic('output-unwritable', { output: path, reason: found.blocked }));
      else if (found.hash === undefined || found.ours || place.force) pending.push(output);
      else if (found.known) {
        states.set(path, 'kept');
        diagnostics.push(diagnostic('output-edited', { output: path, did: 'kept as it is' }));
      } else diagnostics.push(diagnostic('output-foreign', { output: path }));
    }
  }
  return { states, pending, right, diagnostics };
}

/** Outputs of a pipeline that are no longer made. */
export function staleOf(
  pipeline: string,
  outputs: readonly Pick<NewOutput, 'path'>[],
  { record }: Pick<Place, 'record'>,
): string[] {
  if (record.countOf(pipeline) === 0) return [];
  const current = new Set(outputs.map((output) => output.path));
  return [...record.outputs]
    .filter(([path, owned]) => owned.pipeline === pipeline && !current.has(path))
    .map(([path]) => path);
}

/**
 * Publishes the outputs of a pipeline: all are written beside their places first and renamed then, so that either all
 * of them can be written or none is touched. Outputs of the pipeline that are no longer made are removed, unless
 * somebody changed them.
 *
 * @param outputs all outputs of the pipeline
 * @param intent what has to be done with those that are not known to be right
 * @param contentOf the bytes of a pending output
 */
export function publish<Output extends NewOutput>(
  pipeline: string,
  outputs: readonly Output[],
  { pending, right, ...intent }: Intent<Output>,
  place: Place,
  contentOf: (output: Output) => Uint8Array,
): Published {
  const { record, files } = place;
  const diagnostics = [...intent.diagnostics];
  const nothing = (more: readonly Diagnostic[]): Published => ({
    states: new Map(),
    removed: [],
    diagnostics: [...diagnostics, ...more],
  });
  if (diagnostics.some((one) => one.severity === 'error')) return nothing([]);
  for (const { path, hash } of [...pending, ...right]) record.owns(path, pipeline, hash);
  if (pending.length > 0) record.beginsWriting(pending.map((output) => output.path));
  const problem = saveRecord(place) ?? writeAll(pending, place, contentOf);
  if (pending.length > 0) record.endsWriting();
  if (problem) return nothing([problem]);
  const states = new Map(intent.states);
  for (const { path, hash } of pending) {
    files.learn(path, hash);
    states.set(path, 'written');
  }
  // Kept ones are still the tool's in name, so that equal numbers mean that none is left over.
  const stale = record.countOf(pipeline) === outputs.length ? [] : staleOf(pipeline, outputs, place);
  const removed = stale.length === 0 ? { removed: [], diagnostics: [] } : remove(stale, place);
  const late = stale.length === 0 ? undefined : saveRecord(place);
  return {
    states,
    removed: removed.removed,
    diagnostics: [...diagnostics, ...removed.diagnostics, ...(late ? [late] : [])],
  };
}

/** Removes outputs of the tool, those that somebody changed only with `force`; then the folders it made for them. */
export function remove(paths: readonly string[], place: Place): { removed: string[]; diagnostics: Diagnostic[] } {
  const removed: string[] = [];
  const diagnostics: Diagnostic[] = [];
  for (const path of paths) {
    const found = look(path, place);
    if (found.hash !== undefined && !found.ours && !place.force) {
      diagnostics.push(diagnostic('output-edited', { output: path, did: 'not removed' }));
      continue;
    }
    try {
      rmSync(join(place.root, path), { force: true });
      if (found.hash !== undefined) removed.push(path);
      place.record.forget(path);
      place.files.recheck(path);
    } catch (error) {
      diagnostics.push(diagnostic('output-unwritable', { output: path, reason: reasonOf(error) }));
    }
  }
  removeEmptyFolders(place);
  return { removed, diagnostics };
}

/**
 * Saves the record of outputs.
 *
 * @returns a diagnostic when it cannot be saved
 */
export function saveRecord({ record, root }: Pick<Place, 'record' | 'root'>): Diagnostic | undefined {
  try {
    record.save();
    return undefined;
  } catch (error) {
    return diagnostic('record-unwritable', { path: record.path.slice(root.length + 1), reason: reasonOf(error) });
  }
}

interface Found {
  /** The hash of what lies there, if something does. */
  readonly hash?: string;
  /** Whether the tool wrote what lies there. */
  readonly ours: boolean;
  /** Whether the tool has ever written a file of this name. */
  readonly known: boolean;
  /** Why nothing can be written there. */
  readonly blocked?: string;
}

/** Looks at the place of an output as it is at this moment. */
function look(path: string, { root, files, record }: Place): Found {
  files.recheck(path);
  const state = files.state(path);
  const owned = record.outputs.get(path);
  const known = owned !== undefined;
  if (state === null) {
    const blocked = blockedBy(join(root, path));
    return { ours: false, known, ...(blocked !== undefined && { blocked }) };
  }
  const blocked = reasonOfState(state);
  if (blocked !== undefined) return { ours: false, known, blocked };
  if (owned?.hashes.includes(state)) return { hash: state, ours: true, known };
  // Another process of the tool may have written it since: it said so in the record before it did.
  record.sync();
  const now = record.outputs.get(path);
  return { hash: state, ours: now?.hashes.includes(state) ?? false, known: now !== undefined };
}

/** Why no file can lie at a path where none lies. */
function blockedBy(path: string): string | undefined {
  try {
    return statSync(path, { throwIfNoEntry: false }) ? reasonOf({ code: 'EISDIR' }) : undefined;
  } catch (error) {
    return reasonOf(error);
  }
}

function writeAll<Output extends NewOutput>(
  outputs: readonly Output[],
  { root, record, files }: Place,
  contentOf: (output: Output) => Uint8Array,
): Diagnostic | undefined {
  const beside = (path: string): string => join(root, besideName(path, process.pid));
  const written: string[] = [];
  let at = '';
  try {
    for (const output of outputs) {
      const { path } = output;
      at = path;
      makeFolders(posix.dirname(path), root, record);
      written.push(beside(path));
      writeFileSync(beside(path), contentOf(output));
    }
    for (const { path } of outputs) {
      at = path;
      renameSync(beside(path), join(root, path));
    }
    return undefined;
  } catch (error) {
    for (const path of written) rmSync(path, { force: true });
    removeEmptyFolders({ root, record, files, force: false });
    return diagnostic('output-unwritable', { output: at, reason: reasonOf(error) });
  }
}

function makeFolders(folder: string, root: string, record: OutputRecord): void {
  if (folder === '.' || existsSync(join(root, folder))) return;
  makeFolders(posix.dirname(folder), root, record);
  mkdirSync(join(root, folder));
  record.madeFolder(folder);
}

/** Removes folders that the tool made, from the innermost out, as far as they are empty. */
function removeEmptyFolders({ root, record }: Place): void {
  for (const folder of [...record.folders].sort((a, b) => b.length - a.length)) {
    const path = join(root, folder);
    try {
      if (statSync(path, { throwIfNoEntry: false })) rmdirSync(path);
      record.forgetFolder(folder);
    } catch {
      // It holds something: it stays, and so does what is known of it.
    }
  }
}
