import { lstatSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { CheckerThread } from '../checkers/checker-thread.js';
import { diagnostic, DiagnosticError } from '../diagnostics/index.js';
import { packageEntry } from '../execute/project-module.js';
import { FileTable } from '../files/file-table.js';
import { tempFilePath } from '../files/temp-file.js';
import { decodeText, encodeAlike } from '../files/text.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import { matchTest } from '../plan/claims.js';

/** The checkers that can change sources. */
type Linter = 'eslint' | 'stylelint';

/** The options of a step whose checker may change sources. */
interface FixOptions {
  readonly with?: Linter | 'types';
  readonly fix?: boolean;
}

/**
 * Lets the checkers of pipelines that may do so fix their sources. A source is replaced as a whole; links are left alone.
 *
 * @returns the changed sources, relative to the project, in order
 * @throws DiagnosticError if a checker is not installed, or fails
 */
export async function fixSources(root: string, pipelines: readonly PlannedPipeline[]): Promise<readonly string[]> {
  const files = new FileTable(root);
  const fixed = new Set<string>();
  for (const { steps, sources } of pipelines)
    for (const { options, match } of steps) {
      const { with: checker, fix } = options as FixOptions;
      if (fix !== true || (checker !== 'eslint' && checker !== 'stylelint')) continue;
      const paths = sources.map(({ path }) => path).filter(matchTest(match));
      for (const path of await fixAll(paths, checker, files)) fixed.add(path);
    }
  return [...fixed].sort();
}

async function fixAll(paths: readonly string[], checker: Linter, files: FileTable): Promise<readonly string[]> {
  const thread = new CheckerThread(checker);
  const fixed: string[] = [];
  try {
    for (const path of paths) if (await fixSource(path, checker, thread, files)) fixed.push(path);
    return fixed;
  } finally {
    thread.close();
  }
}

async function fixSource(path: string, checker: Linter, thread: CheckerThread, files: FileTable): Promise<boolean> {
  const { root } = files;
  const entry = packageEntry(root, checker, path);
  if (entry === undefined)
    throw new DiagnosticError(diagnostic('package-missing', { name: checker, kind: `\`check: ${checker}\`` }));
  const bytes = files.read(path)?.bytes;
  const stats = lstatSync(join(root, path), { throwIfNoEntry: false });
  if (!bytes || !stats?.isFile()) return false;
  const text = decodeText(bytes, path);
  const request = { root, package: entry, files: [{ path, text }], isFixing: true };
  const { fixed } = await thread.check(request, '').catch((error: Error) => {
    throw new DiagnosticError(diagnostic('check-failed', { checker, message: error.message }, { file: path }));
  });
  if (fixed === undefined || fixed === text) return false;
  try {
    const temporary = join(root, tempFilePath(path, process.pid));
    return replace(join(root, path), temporary, bytes, encodeAlike(fixed, bytes), stats.mode);
  } catch (error) {
    const { message } = error as Error;
    throw new DiagnosticError(diagnostic('check-failed', { checker, message }, { file: path }));
  }
}

/** Replaces a file as a whole, unless it has been edited meanwhile; returns whether it did. */
function replace(path: string, temporary: string, before: Uint8Array, after: Uint8Array, mode: number): boolean {
  writeFileSync(temporary, after, { mode, flag: 'wx' });
  try {
    if (!readFileSync(path).equals(before)) return false;
    renameSync(temporary, path);
    return true;
  } finally {
    rmSync(temporary, { force: true });
  }
}
