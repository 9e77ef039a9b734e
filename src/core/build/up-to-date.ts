import { join } from 'node:path';
import { fingerprintOf, isSame, type Fingerprint } from '../files/fingerprint.js';
import type { FileTable } from '../files/file-table.js';
import { isFileAt } from '../files/path-kind.js';
import { envHash } from '../files/env-hash.js';
import { FolderTree } from '../files/folder-tree.js';
import type { BuildEvent, BuildReport, PipelineReport } from './report.js';
import { writeJsonCache, readJsonCache } from '../cache/json-cache.js';
import type { PipelineMemo } from './memo.js';
import type { Encoding } from '../config/settings.js';
import type { NamedPipeline } from './output-naming.js';

/** Incremented when the format changes. */
const checkVersion = 5;

/**
 * The fingerprints of all files that a successful build read or wrote. If all are unchanged, there is nothing to do,
 * and nothing else has to be loaded. Stored as columns of plain values, because there are many.
 */
interface SavedCheck {
  /** The hash of the project file. */
  readonly configHash: string;
  readonly folders: Readonly<Record<string, string>>;
  /** Environment variables that jobs have read, with the hashes of their values. */
  readonly environment: readonly (readonly [name: string, hash: unknown])[];
  /** Paths, one per line, and four numbers for each: size, times of modification and change, inode. */
  readonly files: string;
  readonly prints: string;
  /** Paths of which only the existence matters, and whether they existed. */
  readonly present: readonly string[];
  readonly absent: readonly string[];
  readonly record: Fingerprint;
  readonly report: SavedReport;
}

/** A report whose outputs are columns. */
type SavedReport = Omit<BuildReport, 'pipelines'> & {
  readonly pipelines: readonly (Omit<PipelineReport, 'outputs'> & {
    readonly paths: string;
    readonly bytes: readonly number[];
    readonly gzipBytes: readonly number[];
    /** The encodings of compressed files, by position. */
    readonly encodings: Readonly<Record<number, Encoding>>;
  })[];
};

/** The state to save for the up-to-date check. */
export interface UpToDateRequest {
  readonly path: string;
  readonly configHash: string;
  readonly folders: Readonly<Record<string, string>>;
  /** The folders that globs of jobs have searched, as they are now; undefined if a glob matches other files now. */
  readonly listedFolders: (
    lists: readonly (readonly [glob: string, hash: unknown])[],
  ) => Readonly<Record<string, string>> | undefined;
  readonly memos: ReadonlyMap<string, PipelineMemo>;
  readonly named: ReadonlyMap<string, NamedPipeline>;
  readonly sources: readonly string[];
  /** Paths of which only the existence matters. */
  readonly consulted: Iterable<string>;
  readonly files: FileTable;
  /** The file that lists the tool's own outputs. */
  readonly record: string;
  readonly report: BuildReport;
}

/**
 * Saves the fingerprints of all files of a build, if it succeeded, all outputs are in place, and every fingerprint is
 * sufficient.
 *
 * @returns true if they were saved
 */
export function saveUpToDate(request: UpToDateRequest): boolean {
  const { path, configHash, folders, memos, named, sources, consulted, files, record, report } = request;
  const looked = new Set(sources);
  const lists = new Map<string, unknown>();
  const environment = new Map<string, unknown>();
  const there = new Map<string, boolean>();
  for (const file of consulted) there.set(file, files.exists(file));
  const weights = new Map<string, number | undefined>();
  for (const memo of memos.values()) {
    for (const unit of memo.units.values()) {
      for (const [kind, file, seen] of unit.jobs.flatMap((job) => job.reads)) {
        if (kind === 'list') lists.set(file, seen);
        if (kind === 'env') environment.set(file, seen);
        // The claims and constants are those of the plan, which is the same.
        if (kind !== 'file' && kind !== 'presence') continue;
        if (kind === 'file' && seen !== null) looked.add(file);
        else there.set(file, kind === 'presence' && seen);
      }
    }
    for (const { outputs } of memo.emitted.values())
      for (const output of outputs) weights.set(output.path, output.gzipBytes);
  }
  for (const outputs of named.values())
    for (const one of outputs.values()) for (const output of one.outputs) weights.set(output.path, output.gzipBytes);
  for (const { outputs } of report.pipelines) for (const { path: output } of outputs) looked.add(output);
  // Edited outputs are checked and reported in every build.
  const isEdited = report.diagnostics.some((one) => one.code === 'output-edited');
  const paths = [...looked];
  const prints = paths.map((file) => files.settledPrint(file));
  const recordPrint = fingerprintOf(record);
  if (!report.done || !recordPrint || isEdited || paths.some((file) => file.includes('\n'))) return false;
  if (!prints.every((print) => print !== undefined)) return false;
  const listed = lists.size === 0 ? {} : request.listedFolders([...lists]);
  if (!listed) return false;
  const numbers = Float64Array.from(
    prints.flatMap(({ size, modified, changed, inode }) => [size, modified, changed, inode]),
  );
  const check: SavedCheck = {
    configHash,
    folders: { ...listed, ...folders },
    environment: [...environment],
    files: paths.join('\n'),
    prints: Buffer.from(numbers.buffer).toString('base64'),
    present: [...there].filter(([file, isThere]) => isThere && !looked.has(file)).map(([file]) => file),
    absent: [...there].filter(([, isThere]) => !isThere).map(([file]) => file),
    record: { ...recordPrint },
    report: {
      ...report,
      pipelines: report.pipelines.map(({ outputs, ...one }) => ({
        ...one,
        paths: outputs.map((output) => output.path).join('\n'),
        bytes: outputs.map((output) => output.bytes),
        gzipBytes: outputs.map((output) => weights.get(output.path) ?? output.gzipBytes ?? output.bytes),
        encodings: Object.fromEntries(outputs.flatMap(({ encoding }, at) => (encoding ? [[at, encoding]] : []))),
      })),
    },
  };
  writeJsonCache(path, checkVersion, check);
  return true;
}

/**
 * Checks whether anything has changed since the fingerprints were saved.
 *
 * @param configHash identifies the inputs of a plan
 * @returns the report of a build that has nothing to do; undefined if there may be changes
 */
export function checkUpToDate(path: string, root: string, configHash: string, record: string): BuildReport | undefined {
  const started = performance.now();
  const check = readJsonCache(path, checkVersion) as SavedCheck | undefined;
  if (check?.configHash !== configHash || !new FolderTree(root).matches(check.folders)) return undefined;
  if (!check.environment.every(([name, hash]) => envHash(name) === hash)) return undefined;
  const recordPrint = fingerprintOf(record);
  if (!recordPrint || !isSame(recordPrint, check.record)) return undefined;
  if (!check.present.every((file) => isFileAt(join(root, file)))) return undefined;
  if (check.absent.some((file) => isFileAt(join(root, file)))) return undefined;
  if (!filesMatch(check, root)) return undefined;
  const milliseconds = performance.now() - started;
  return {
    ...check.report,
    jobs: { run: 0, reused: check.report.jobs.run + check.report.jobs.reused },
    pipelines: check.report.pipelines.map((one) => reusedReport(one, milliseconds)),
    removed: [],
    milliseconds,
  };
}

/** Reports a build that had nothing to do. */
export function replayReport(report: BuildReport, tell: (event: BuildEvent) => void): void {
  const { profile, pipelines, diagnostics } = report;
  tell({ event: 'build-started', profile, pipelines: pipelines.map((one) => one.name), jobs: pipelines.map(() => 0) });
  for (const one of diagnostics) tell({ event: 'diagnostic', diagnostic: one });
  for (const one of pipelines) {
    tell({ event: 'pipeline-started', pipeline: one.name, sources: one.sources });
    tell({ event: 'pipeline-done', report: one });
  }
  tell({ event: 'build-done', report });
}

function filesMatch({ files, prints }: SavedCheck, root: string): boolean {
  const bytes = Buffer.from(prints, 'base64');
  const numbers = new Float64Array(bytes.buffer, bytes.byteOffset, bytes.length / 8);
  return files.split('\n').every((file, index) => {
    const print = fingerprintOf(`${root}/${file}`);
    const at = index * 4;
    return (
      print?.size === numbers[at] &&
      print?.modified === numbers[at + 1] &&
      print?.changed === numbers[at + 2] &&
      print?.inode === numbers[at + 3]
    );
  });
}

function reusedReport(
  { paths, bytes, gzipBytes, encodings, steps, ...one }: SavedReport['pipelines'][number],
  milliseconds: number,
): PipelineReport {
  const outputs = paths === '' ? [] : paths.split('\n');
  return {
    ...one,
    steps: steps.map(({ step, run, reused }) => ({ step, run: 0, reused: run + reused })),
    outputs: outputs.map((path, index) => ({
      path,
      state: 'unchanged',
      bytes: bytes[index]!,
      gzipBytes: gzipBytes[index]!,
      ...(encodings[index] && { encoding: encodings[index] }),
    })),
    removed: [],
    milliseconds,
  };
}
