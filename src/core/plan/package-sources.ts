import type { PipelineConfig, ProjectConfig } from '../config/project-config.js';
import { diagnostic, nearestWord, type Diagnostic } from '../diagnostics/index.js';
import { escapedGlob } from '../files/globs.js';
import { packageFolder } from '../files/package-folder.js';
import { parsePackageGlob } from '../files/package-glob.js';
import type { PlanRequest } from './request.js';
import { sourcePath } from './source-path.js';

/** The globs of a pipeline, with those of packages where these are installed. */
export interface LocatedGlobs {
  readonly globs: readonly string[];
  /** The folders of the packages, by the index of the glob. */
  readonly folders: ReadonlyMap<number, string>;
  /** The names of packages that are not installed, by the index of the glob. */
  readonly missing: ReadonlyMap<number, string>;
}

/** Finds the packages that the globs of a pipeline name, as Node.js finds them from the project folder. */
export function locatePackages({ from }: PipelineConfig, request: PlanRequest): LocatedGlobs {
  const folders = new Map<number, string>();
  const missing = new Map<number, string>();
  // Listed, so that the plan is made again when one is installed or removed.
  const exists = (path: string): boolean => request.list(escapedGlob(path)).length > 0;
  const globs = from.map((written, index) => {
    const negation = written.startsWith('!') ? '!' : '';
    const parsed = parsePackageGlob(written.slice(negation.length));
    if (!parsed) return written;
    const folder = packageFolder(parsed.name, '.', exists);
    if (folder === undefined) {
      // Nothing has to be left out of what is not there.
      if (negation === '') missing.set(index, parsed.name);
      return written;
    }
    folders.set(index, folder);
    return `${negation}${escapedGlob(folder)}/${parsed.glob}`;
  });
  return { globs, folders, missing };
}

/** Packages that globs name and that are not installed. */
export function missingPackages(
  { from, name: pipeline }: PipelineConfig,
  missing: LocatedGlobs['missing'],
  project: ProjectConfig,
  request: PlanRequest,
): Diagnostic[] {
  return [...missing].map(([index, name]) => {
    const installed = request
      .list('node_modules/{*,@*/*}/package.json')
      .map((path) => path.split('/').slice(1, -1).join('/'));
    const near = nearestWord(name, installed);
    const parameters = { name, kind: `\`${from[index]!}\``, ...(near !== undefined && { near }) };
    return diagnostic(
      'package-missing',
      parameters,
      project.document.place(sourcePath({ name: pipeline, from }, index)),
    );
  });
}
