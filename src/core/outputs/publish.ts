import {
  closeSync,
  constants,
  copyFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  renameSync,
  rmdirSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { join, posix, relative, sep } from 'node:path';
import { diagnostic, DiagnosticError, hasErrors, type Diagnostic } from '../diagnostics/index.js';
import { fingerprintOf, type Fingerprint } from '../files/fingerprint.js';
import { reasonOfState, type FileTable } from '../files/file-table.js';
import type { OutputRecord } from './record.js';
import { isFileAt, isFolderAt } from '../files/path-kind.js';
import { reasonOf } from '../files/reason.js';
import { hashRegularFile } from '../files/regular-file.js';
import { tempFilePath } from '../files/temp-file.js';
import { createFile, removeIfPossible } from '../files/write-file.js';

/** A file to publish, relative to the project. */
export interface NewOutput {
  readonly path: string;
  /** The hash of its intended content. */
  readonly hash: string;
}

/** The result for an output: written, unchanged, or preserved because it was edited by hand. */
export type OutputState = 'written' | 'unchanged' | 'preserved';

/** The result of publishing outputs of a pipeline. */
export interface Published {
  /** False if a problem, perhaps with another pipeline, prevented publishing. */
  readonly isPublished: boolean;
  /** Empty if nothing was published. */
  readonly states: ReadonlyMap<string, OutputState>;
  /** Stale outputs that were in the way. */
  readonly removed: readonly string[];
  readonly diagnostics: readonly Diagnostic[];
  /** A source that changed while it was copied, which prevented publishing. */
  readonly changedSource?: string;
}

/** The project folder for publishing, and whether existing files of the user may be replaced. */
export interface OutputRoot {
  readonly root: string;
  readonly files: FileTable;
  readonly record: OutputRecord;
  readonly force: boolean;
}

/** The planned operations for the outputs of a pipeline. */
export interface PublishPlan<Output extends NewOutput = NewOutput> {
  readonly states: ReadonlyMap<string, OutputState>;
  /** The outputs that have to be written. */
  readonly pending: readonly Output[];
  readonly unchanged: readonly Output[];
  /**
   * Removable files and folders at the paths of new outputs: stale outputs where folders are needed, and folders that
   * contain only stale outputs where files are needed.
   */
  readonly obstacles: readonly string[];
  /** Pending outputs whose path contains other content written by the tool. */
  readonly replacing: readonly Output[];
  readonly diagnostics: readonly Diagnostic[];
}

/** The bytes of an output, or the file of the project that it is a copy of. */
export type OutputContent = Uint8Array | { readonly copyOf: string };

/**
 * Plans the publishing of outputs; unchanged files are not written.
 *
 * @param outputs those that may have changed
 * @param isStale reports whether a path is that of an output that is no longer made, and may be removed
 */
export function planPublish<Output extends NewOutput>(
  outputs: readonly Output[],
  place: OutputRoot,
  isStale: (path: string) => boolean,
): PublishPlan<Output> {
  const diagnostics: Diagnostic[] = [];
  const states = new Map<string, OutputState>();
  const pending: Output[] = [];
  const unchanged: Output[] = [];
  const obstacles = new Set<string>();
  const replacing: Output[] = [];
  const isRemovable = (path: string): boolean => isStale(path) && inspect(path, place).ours;
  for (const output of outputs) {
    const { path, hash } = output;
    const unwritable = place.files.boundary.reasonAgainstWriting(path);
    if (unwritable !== undefined)
      diagnostics.push(diagnostic('output-unwritable', { output: path, reason: unwritable }));
    else if (place.files.state(path) === hash) {
      states.set(path, 'unchanged');
      unchanged.push(output);
    } else {
      const found = inspect(path, place);
      const inTheWay = found.blocked === undefined ? [] : obstaclesOf(path, isRemovable, place);
      for (const one of inTheWay) obstacles.add(one);
      if (found.hash === hash) {
        states.set(path, 'unchanged');
        unchanged.push(output);
      } else if (inTheWay.length > 0) pending.push(output);
      else if (found.blocked !== undefined)
        diagnostics.push(diagnostic('output-unwritable', { output: path, reason: found.blocked }));
      else if (found.hash === undefined || found.ours || place.force) {
        pending.push(output);
        if (found.ours) replacing.push(output);
      } else if (found.known) {
        states.set(path, 'preserved');
        diagnostics.push(diagnostic('output-edited', { output: path, did: 'preserved' }));
      } else diagnostics.push(diagnostic('output-foreign', { output: path }));
    }
  }
  return { states, pending, unchanged, obstacles: [...obstacles], replacing, diagnostics };
}

/** Outputs that a pipeline no longer produces. */
export function staleOf(
  pipeline: string,
  outputs: readonly Pick<NewOutput, 'path'>[],
  { record }: Pick<OutputRoot, 'record'>,
): string[] {
  if (record.countOf(pipeline) === 0) return [];
  const current = new Set(outputs.map((output) => output.path));
  return [...record.outputs]
    .filter(([path, owned]) => owned.pipeline === pipeline && !current.has(path))
    .map(([path]) => path);
}

/** Outputs of a pipeline to publish, with the plan for those that may have changed. */
export interface PlannedOutputs<Output extends NewOutput = NewOutput> {
  readonly pipeline: string;
  readonly plan: PublishPlan<Output>;
}

/** The way in which outputs of several pipelines are published. */
export interface PublishOptions<Output extends NewOutput> {
  /** Returns the bytes of a pending output. */
  readonly contentOf: (output: Output) => OutputContent;
  /** Sorts outputs so that each follows those that it refers to. */
  readonly inOrder: (outputs: readonly Output[]) => readonly Output[];
  /** True if a problem with one pipeline prevents publishing all of them, because their outputs refer to each other. */
  readonly isAtomic: boolean;
}

/**
 * Publishes outputs of pipelines: all are written to temporary files, which are then renamed, those first that others
 * refer to. Of each pipeline, either all are written or none. Stale outputs stay.
 *
 * @returns the result of each pipeline, in order
 */
export function publish<Output extends NewOutput>(
  all: readonly PlannedOutputs<Output>[],
  place: OutputRoot,
  options: PublishOptions<Output>,
): Published[] {
  return new Publishing(place, options).run(all);
}

/** The writing of outputs, and the problems of each pipeline. */
class Publishing<Output extends NewOutput> {
  readonly #problems = new Map<PlannedOutputs<Output>, Diagnostic>();
  readonly #temps = new Map<Output, string>();
  /** The fingerprints of temporary files before they were renamed. */
  readonly #prints = new Map<Output, Fingerprint | undefined>();
  /** Stale outputs that were in the way and are removed. */
  readonly #cleared = new Map<PlannedOutputs<Output>, string[]>();

  constructor(
    private readonly place: OutputRoot,
    private readonly options: PublishOptions<Output>,
  ) {}

  run(all: readonly PlannedOutputs<Output>[]): Published[] {
    const { record, files } = this.place;
    const possible = this.#withoutFailures(
      all.filter(({ plan }) => !hasErrors(plan.diagnostics)),
      all.length,
    );
    this.#announce(possible);
    const problem = saveRecord(this.place);
    for (const one of problem ? possible : []) this.#problems.set(one, problem!);
    for (const one of this.#open(possible)) this.#writeTemps(one);
    for (const one of this.#open(possible)) this.#clearObstacles(one);
    this.#rename(this.#open(possible));
    const written = new Set(this.#open(possible));
    for (const one of possible) if (!written.has(one)) this.#cleanUp(one);
    if (this.#temps.size > 0) record.markWritten();
    for (const { plan } of written)
      for (const output of plan.pending) files.recordWrite(output.path, output.hash, this.#prints.get(output));
    return all.map((one) => this.#resultOf(one, written.has(one)));
  }

  /** The pipelines that can still be published. */
  #open(all: readonly PlannedOutputs<Output>[]): readonly PlannedOutputs<Output>[] {
    return this.#withoutFailures(
      all.filter((one) => !this.#problems.has(one)),
      all.length,
    );
  }

  #withoutFailures(left: readonly PlannedOutputs<Output>[], all: number): readonly PlannedOutputs<Output>[] {
    return this.options.isAtomic && left.length < all ? [] : left;
  }

  /** Records what is going to be written, so that files of a killed build can be found. */
  #announce(all: readonly PlannedOutputs<Output>[]): void {
    const { record } = this.place;
    for (const { pipeline, plan } of all) {
      // What is on disk stays known, however often builds are killed before they replace it.
      for (const { path } of plan.replacing) {
        const state = this.place.files.state(path);
        if (state !== null) record.claim(path, pipeline, state);
      }
      for (const { path, hash } of [...plan.pending, ...plan.unchanged]) record.claim(path, pipeline, hash);
      for (const output of plan.pending)
        this.#temps.set(output, tempFilePath(output.path, process.pid, folderFor(output.path, plan.obstacles)));
    }
    if (this.#temps.size > 0) record.markWriting([...this.#temps.values()]);
    for (const folder of new Set([...this.#temps.keys()].map(({ path }) => posix.dirname(path))))
      noteNewFolders(folder, this.place);
  }

  #writeTemps(one: PlannedOutputs<Output>): void {
    const { root, record } = this.place;
    this.#attempt(one, (at) => {
      for (const output of one.plan.pending) {
        at(output.path);
        const temp = this.#temps.get(output)!;
        makeFolders(posix.dirname(temp), root, record);
        writeContent(join(root, temp), this.options.contentOf(output), output.hash, root);
      }
    });
  }

  #clearObstacles(one: PlannedOutputs<Output>): void {
    const { root, record, files } = this.place;
    const { obstacles } = one.plan;
    const cleared = obstacles.filter((path) => record.outputs.has(path));
    this.#cleared.set(one, cleared);
    this.#attempt(one, (at) => {
      for (const obstacle of obstacles) {
        at(obstacle);
        files.invalidate(obstacle);
        // A folder is removed when it is empty; its path may be that of a new output.
        if (isFolderAt(join(root, obstacle))) continue;
        rmSync(join(root, obstacle), { force: true });
        record.forget(obstacle);
      }
    });
    if (obstacles.length > 0) removeEmptyFolders(this.place);
  }

  #rename(all: readonly PlannedOutputs<Output>[]): void {
    const { root, record } = this.place;
    const owners = new Map(all.flatMap((one) => one.plan.pending.map((output) => [output, one] as const)));
    for (const output of this.options.inOrder([...owners.keys()])) {
      const owner = owners.get(output)!;
      if (this.#problems.has(owner) || (this.options.isAtomic && this.#problems.size > 0)) continue;
      this.#attempt(owner, (at) => {
        at(output.path);
        makeFolders(posix.dirname(output.path), root, record);
        const temp = join(root, this.#temps.get(output)!);
        this.#prints.set(output, fingerprintOf(temp));
        renameSync(temp, join(root, output.path));
      });
    }
  }

  #cleanUp({ plan }: PlannedOutputs<Output>): void {
    for (const output of plan.pending) removeIfPossible(join(this.place.root, this.#temps.get(output)!));
    removeEmptyFolders(this.place);
  }

  #attempt(one: PlannedOutputs<Output>, work: (at: (path: string) => void) => void): void {
    let at = '';
    try {
      work((path) => (at = path));
    } catch (error) {
      const [found] = error instanceof DiagnosticError ? error.diagnostics : [];
      this.#problems.set(one, found ?? diagnostic('output-unwritable', { output: at, reason: reasonOf(error) }));
    }
  }

  #resultOf(one: PlannedOutputs<Output>, isWritten: boolean): Published {
    const { plan } = one;
    if (!isWritten) {
      const problem = this.#problems.get(one);
      return {
        states: new Map(),
        removed: [],
        diagnostics: [...plan.diagnostics, ...(problem ? [problem] : [])],
        isPublished: false,
        ...(problem?.code === 'file-unreadable' && problem.file !== undefined && { changedSource: problem.file }),
      };
    }
    const states = new Map(plan.states);
    for (const { path } of plan.pending) states.set(path, 'written');
    const removed = (this.#cleared.get(one) ?? []).filter((path) => !this.place.record.outputs.has(path));
    return { states, removed, diagnostics: plan.diagnostics, isPublished: true };
  }
}

/** Removes outputs of the tool, edited ones only with `force`, and then the folders that it created for them. */
export function remove(paths: readonly string[], place: OutputRoot): { removed: string[]; diagnostics: Diagnostic[] } {
  const removed: string[] = [];
  const diagnostics: Diagnostic[] = [];
  for (const path of paths) {
    // The output is gone, and its folder is now a file.
    if (isBelowFile(path, place.root)) {
      place.record.forget(path);
      continue;
    }
    const unwritable = place.files.boundary.reasonAgainstWriting(path);
    if (unwritable !== undefined) {
      diagnostics.push(diagnostic('output-unwritable', { output: path, reason: unwritable }));
      continue;
    }
    const found = inspect(path, place);
    if (found.hash !== undefined && !found.ours && !place.force) {
      diagnostics.push(diagnostic('output-edited', { output: path, did: 'not removed' }));
      continue;
    }
    try {
      // A folder at this path was not written as an output.
      if (!isFolderAt(join(place.root, path))) rmSync(join(place.root, path), { force: true });
      if (found.hash !== undefined) removed.push(path);
      place.record.forget(path);
      place.files.invalidate(path);
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
 * @returns a diagnostic if that fails
 */
export function saveRecord({ record, root }: Pick<OutputRoot, 'record' | 'root'>): Diagnostic | undefined {
  try {
    record.save();
    return undefined;
  } catch (error) {
    return diagnostic('record-unwritable', { path: record.path.slice(root.length + 1), reason: reasonOf(error) });
  }
}

interface OnDisk {
  /** The hash of the existing file, if any. */
  readonly hash?: string;
  /** True if the tool wrote the existing file. */
  readonly ours: boolean;
  /** True if the tool has ever written a file at this path. */
  readonly known: boolean;
  /** The reason why the path is not writable. */
  readonly blocked?: string;
}

/** Determines the current state of the path of an output. */
function inspect(path: string, { root, files, record }: OutputRoot): OnDisk {
  files.invalidate(path);
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
  // Another process of the tool may have written it, which it recorded before.
  record.sync();
  const now = record.outputs.get(path);
  return { hash: state, ours: now?.hashes.includes(state) ?? false, known: now !== undefined };
}

/** The reason why no file can be created at a path. */
function blockedBy(path: string): string | undefined {
  try {
    return statSync(path, { throwIfNoEntry: false }) ? reasonOf({ code: 'EISDIR' }) : undefined;
  } catch (error) {
    return reasonOf(error);
  }
}

/**
 * Finds the files to remove before a path can be written: a stale output in place of a folder, or a folder at the path
 * with everything in it.
 *
 * @returns an empty list if anything else is in the way
 */
function obstaclesOf(path: string, isStale: (path: string) => boolean, { root, record }: OutputRoot): string[] {
  for (let folder = posix.dirname(path); folder !== '.'; folder = posix.dirname(folder))
    if (isStale(folder)) return [folder];
  try {
    const entries = readdirSync(join(root, path), { recursive: true, withFileTypes: true });
    const pathOf = (entry: (typeof entries)[number]): string =>
      relative(root, join(entry.parentPath, entry.name)).split(sep).join('/');
    const files = entries.filter((entry) => !entry.isDirectory()).map(pathOf);
    const folders = entries.filter((entry) => entry.isDirectory()).map(pathOf);
    const isOurs = [path, ...folders].every((folder) => record.folders.has(folder)) && files.every(isStale);
    return isOurs ? [...files, path] : [];
  } catch {
    return [];
  }
}

/**
 * The folder for the temporary file of an output: its own, or that of the file that is still in place of its folder.
 */
function folderFor(path: string, obstacles: readonly string[]): string {
  const obstacle = obstacles.find((one) => path.startsWith(`${one}/`));
  return posix.dirname(obstacle ?? path);
}

/** Reports whether a parent folder of a path is a file. */
function isBelowFile(path: string, root: string): boolean {
  let folder = posix.dirname(path);
  while (folder !== '.' && !existsSync(join(root, folder))) folder = posix.dirname(folder);
  return folder !== '.' && isFileAt(join(root, folder));
}

function writeContent(full: string, content: OutputContent, hash: string, root: string): void {
  if ('copyOf' in content) {
    rmSync(full, { force: true });
    copyFileSync(join(root, content.copyOf), full, constants.COPYFILE_EXCL | constants.COPYFILE_FICLONE);
    // The source may have been written since it was hashed.
    if (hashRegularFile(full).hash !== hash)
      throw new DiagnosticError(
        diagnostic('file-unreadable', { reason: 'it changed while it was copied' }, { file: content.copyOf }),
      );
    return;
  }
  const file = createFile(full);
  try {
    writeFileSync(file, content);
  } finally {
    closeSync(file);
  }
}

function makeFolders(folder: string, root: string, record: OutputRecord): void {
  if (folder === '.' || existsSync(join(root, folder))) return;
  makeFolders(posix.dirname(folder), root, record);
  mkdirSync(join(root, folder));
  if (!record.folders.has(folder)) record.addFolder(folder);
}

/** Collects a folder that has to be created, and its parents. */
function noteNewFolders(folder: string, { root, record }: OutputRoot): void {
  for (let one = folder; one !== '.' && !isFolderAt(join(root, one)); one = posix.dirname(one))
    if (!record.folders.has(one)) record.addFolder(one);
}

/** Removes folders created by the tool, innermost first, as long as they are empty. */
function removeEmptyFolders({ root, record, files }: OutputRoot): void {
  for (const folder of [...record.folders].sort((a, b) => b.length - a.length)) {
    const path = join(root, folder);
    try {
      const isOurs = files.boundary.reasonAgainstWriting(folder) === undefined;
      if (isOurs && statSync(path, { throwIfNoEntry: false })) rmdirSync(path);
      record.forgetFolder(folder);
    } catch {
      // The folder is not empty: it is preserved, together with its entry.
    }
  }
}
