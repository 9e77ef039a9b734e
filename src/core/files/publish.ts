import { existsSync, mkdirSync, readFileSync, renameSync, rmdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join, posix } from 'node:path';
import { diagnostic, type Diagnostic } from '../diagnostics/index.js';
import { contentHash, type OutputRecord } from './record.js';
import { reasonOf } from './reason.js';

/** A file to publish, relative to the project. */
export interface NewOutput {
  readonly path: string;
  readonly bytes: Uint8Array;
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
  readonly record: OutputRecord;
  readonly force: boolean;
}

const nothing = new Map<string, OutputState>();

/**
 * Publishes the outputs of a pipeline: all are written beside their places first and renamed then, so that either all
 * of them can be written or none is touched. Files whose bytes are right already are left alone. Outputs of the
 * pipeline that are no longer made are removed, unless somebody changed them.
 */
export function publish(pipeline: string, outputs: readonly NewOutput[], place: Place): Published {
  const diagnostics: Diagnostic[] = [];
  const states = new Map<string, OutputState>();
  const pending: (NewOutput & { hash: string })[] = [];
  for (const output of outputs) {
    const hash = contentHash(output.bytes);
    const found = look(output.path, place);
    if (found.hash === hash) states.set(output.path, 'right');
    else if (found.blocked !== undefined)
      diagnostics.push(diagnostic('output-unwritable', { output: output.path, reason: found.blocked }));
    else if (found.hash === undefined || found.ours || place.force) pending.push({ ...output, hash });
    else if (found.known) {
      states.set(output.path, 'kept');
      diagnostics.push(diagnostic('output-edited', { output: output.path, did: 'kept as it is' }));
    } else diagnostics.push(diagnostic('output-foreign', { output: output.path }));
  }
  if (diagnostics.some((one) => one.severity === 'error')) return { states: nothing, removed: [], diagnostics };

  for (const { path, hash } of pending) place.record.willWrite(path, pipeline, hash);
  const problem = saveRecord(place) ?? writeAll(pending, place);
  if (problem) return { states: nothing, removed: [], diagnostics: [...diagnostics, problem] };
  for (const { path, hash } of pending) {
    place.record.wrote(path, pipeline, hash);
    states.set(path, 'written');
  }
  for (const { path, bytes } of outputs)
    if (states.get(path) === 'right') place.record.wrote(path, pipeline, contentHash(bytes));
  const current = new Set(outputs.map((output) => output.path));
  const stale = [...place.record.outputs]
    .filter(([path, owned]) => owned.pipeline === pipeline && !current.has(path))
    .map(([path]) => path);
  const removed = remove(stale, place);
  const late = saveRecord(place);
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
export function saveRecord({ record, root }: Place): Diagnostic | undefined {
  try {
    record.save(root);
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

function look(path: string, { root, record }: Place): Found {
  const owned = record.outputs.get(path);
  try {
    const hash = contentHash(readFileSync(join(root, path)));
    return { hash, ours: owned?.hashes.includes(hash) ?? false, known: owned !== undefined };
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    const absent = { ours: false, known: owned !== undefined };
    return code === 'ENOENT' ? absent : { ...absent, blocked: reasonOf(error) };
  }
}

function writeAll(outputs: readonly NewOutput[], { root, record }: Place): Diagnostic | undefined {
  const beside = (path: string): string =>
    join(root, posix.dirname(path), `.${posix.basename(path)}.${String(process.pid)}.new`);
  const written: string[] = [];
  let at = '';
  try {
    for (const { path, bytes } of outputs) {
      at = path;
      makeFolders(posix.dirname(path), root, record);
      written.push(beside(path));
      writeFileSync(beside(path), bytes);
    }
    for (const { path } of outputs) {
      at = path;
      renameSync(beside(path), join(root, path));
    }
    return undefined;
  } catch (error) {
    for (const path of written) rmSync(path, { force: true });
    removeEmptyFolders({ root, record, force: false });
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
