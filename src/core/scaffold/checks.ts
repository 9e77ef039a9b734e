import { posix } from 'node:path';
import { compiledPath, formatOf } from '../languages/formats.js';
import { escapedGlob } from '../files/globs.js';
import type { FolderView } from './folder-view.js';
import type { ProposedPipeline } from './pipelines.js';
import { commonFolder } from './sources.js';

/** The usual names of the configuration of checkers. */
const configurations: Readonly<Record<string, readonly string[]>> = {
  eslint: ['eslint.config.*'],
  stylelint: ['stylelint.config.*', '.stylelintrc*'],
};

/** Pipelines for the checkers that a project has set up, for these sources. */
export function proposeChecks(sources: readonly string[], { files, list }: FolderView): readonly ProposedPipeline[] {
  const kindOf = (path: string): string | undefined => formatOf(path)?.kind;
  const scripts = sources.filter((path) => kindOf(path) === 'script');
  const typed = scripts.filter((path) => /\.[cm]?tsx?$/.test(path) && compiledPath(path) !== path);
  const sheets = sources.filter((path) => kindOf(path) === 'style');
  const isSetUp = (name: string): boolean =>
    list(`node_modules/${name}/package.json`).length > 0 && configurations[name]!.some((glob) => list(glob).length > 0);
  const found: ProposedPipeline[] = [];
  const add = (name: string, note: string, own: readonly string[]): void => {
    if (own.length > 0) found.push({ name, note, from: [globOf(own)], steps: [`check: ${name}`] });
  };
  if (files.includes('tsconfig.json'))
    add('types', 'Types, because there is a tsconfig.json: errors hold a release', typed);
  if (isSetUp('eslint')) add('eslint', 'Scripts, because ESLint is set up', scripts);
  if (isSetUp('stylelint')) add('stylelint', 'Style sheets, because stylelint is set up', sheets);
  return found;
}

/** A glob of files with the extensions of some, in the folder that contains all of them. */
function globOf(sources: readonly string[]): string {
  const folder = commonFolder(sources);
  const extensions = [...new Set(sources.map((path) => posix.extname(path).slice(1)))].sort();
  const end = extensions.length === 1 ? extensions[0]! : `{${extensions.join(',')}}`;
  return `${folder === '.' ? '' : `${escapedGlob(folder)}/`}**/*.${end}`;
}
