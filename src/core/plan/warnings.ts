import { existsSync, readdirSync, statSync } from 'node:fs';
import { join, posix } from 'node:path';
import type { SettingPath } from '../config/document.js';
import type { Profile } from '../config/profile.js';
import type { ProjectConfig } from '../config/project-config.js';
import type { Claim } from '../config/steps.js';
import { diagnostic, nearestWord, type Diagnostic, type Place } from '../diagnostics/index.js';
import { escapedGlob, globBase, globTest, literalPath } from '../files/globs.js';
import { claimsAfter, describeClaim, matchTest, type ClaimIndex } from './claims.js';
import type { PlanRequest } from './request.js';
import { sourcePath } from './source-path.js';
import type { PipelineResolver } from './resolver.js';

/** The maximum number of assets to list. */
const namedAssets = 3;

/** Globs that match no file, and of which no pipeline writes files that they may match. */
export function emptyGlobs(
  resolver: PipelineResolver,
  project: ProjectConfig,
  request: PlanRequest,
  claims: ClaimIndex,
): Diagnostic[] {
  const { name, from } = resolver.config;
  return from.flatMap((glob, index) => {
    if (glob.startsWith('!') || resolver.matched[index]! > 0 || resolver.located.missing.has(index)) return [];
    if (claims.writersOfFoldersMatching(glob).length > 0) return [];
    const partial = resolver.partials[index];
    const suggestion =
      partial === undefined
        ? emptyGlobAdvice(glob, request.root)
        : `Files such as ${partial} are only used by files that import them; match those instead.`;
    const found = partial === undefined ? 'no files' : 'only partials';
    const parameters = { glob, pipeline: name, found, suggestion };
    const place = project.document.place(sourcePath(resolver.config, index));
    return [{ ...diagnostic('glob-empty', parameters, place), pipeline: name }];
  });
}

function emptyGlobAdvice(glob: string, root: string): string {
  const path = literalPath(glob);
  if (path !== undefined && statSync(join(root, path), { throwIfNoEntry: false })?.isDirectory())
    return `${glob} is a folder; to match the files in it, write ${posix.join(glob, '**/*')}.`;
  for (let folder = path ?? globBase(glob); folder !== '.'; folder = posix.dirname(folder)) {
    const parent = posix.dirname(folder);
    if (existsSync(join(root, folder)) || !existsSync(join(root, parent))) continue;
    const near = nearestWord(posix.basename(folder), readdirSync(join(root, parent)));
    return `\`${folder}\` does not exist.${near === undefined ? '' : ` Did you mean \`${posix.join(parent, near)}\`?`}`;
  }
  const meant = nameWithSigns(glob);
  if (meant !== '' && existsSync(join(root, meant)))
    return `${meant} exists; to match it literally, write '${escapedGlob(meant)}' in single quotes.`;
  const folder = globBase(glob);
  const where =
    folder === '.' ? 'No file in the project matches' : `The folder ${folder} exists, but no file in it matches`;
  return `${where}; check the wildcards and the extension.`;
}

/** Steps whose `match` fits no asset that comes to them. */
export function emptyMatches({ config, steps, sources }: PipelineResolver, project: ProjectConfig): Diagnostic[] {
  const found: Diagnostic[] = [];
  let claims: readonly Claim[] = sources.map((source) => source.target);
  for (const step of steps) {
    const { definition, match } = step;
    const paths = claims.map(describeClaim);
    if (match !== undefined && paths.length > 0 && !paths.some(matchTest(match))) {
      const more = paths.length > namedAssets ? ` and ${String(paths.length - namedAssets)} more` : '';
      const assets = `${paths.slice(0, namedAssets).join(', ')}${more}`;
      const place = ['pipelines', config.name, 'steps', config.steps.indexOf(step), definition.name, 'match'];
      found.push(
        diagnostic('match-empty', { glob: match, step: definition.name, assets }, project.document.place(place)),
      );
    }
    claims = claimsAfter(claims, step);
  }
  return found;
}

/** Globs of `plainNames` that match no output. */
export function emptyPlainNames(
  { plainNames, lineage }: Profile,
  project: ProjectConfig,
  claims: ClaimIndex,
): Diagnostic[] {
  return plainNames.flatMap((glob) => {
    if (claims.writersMatching(glob.replace(/^!/, '')).size > 0) return [];
    return [diagnostic('names-empty', { glob }, placeInProfiles(['plainNames'], glob, lineage, project))];
  });
}

/** The place of a value in the nearest of some profiles that extend each other. */
export function placeInProfiles(
  path: SettingPath,
  value: string,
  lineage: readonly string[],
  { document }: ProjectConfig,
): Place | undefined {
  const places = lineage.map((profile) => document.place(['profiles', profile, ...path]));
  const holdsValue = ({ offsets: [start, end] = [0, 0] }: Place): boolean =>
    document.text.slice(start, end).includes(value);
  return places.find(holdsValue) ?? places[0];
}

/** The beginning of a glob that may have been meant literally, although it contains pattern characters. */
function nameWithSigns(glob: string): string {
  const parts = glob.split('/');
  const wild = parts.findIndex((part) => /[*?]/.test(part));
  const name = parts.slice(0, wild < 0 ? parts.length : wild).join('/');
  return /[[{(]/.test(name) ? name : '';
}

/** Sources that are not below the `base` of their pipeline. */
export function outsideBase(
  { config: { name, base }, sources }: PipelineResolver,
  project: ProjectConfig,
): Diagnostic[] {
  if (base === undefined || base === '.') return [];
  const outside = sources.find(({ path }) => !path.startsWith(`${base}/`));
  if (!outside) return [];
  return [
    diagnostic(
      'base-outside',
      { source: outside.path, base, pipeline: name },
      project.document.place(['pipelines', name, 'base']),
    ),
  ];
}

/** Values that look like environment variables: `${NAME}` and `$NAME`. */
const variable = /\$\{[A-Za-z_]\w*\}|^\$[A-Z][A-Z0-9_]*$/;

/** Constants whose text was meant to be read from the environment. */
export function unreadVariables({ constants, lineage }: Profile, project: ProjectConfig): Diagnostic[] {
  return Object.entries(constants).flatMap(([name, value]) => {
    if (typeof value !== 'string' || !variable.test(value)) return [];
    const place = placeInProfiles(['constants', name], value, lineage, project);
    return [diagnostic('constant-variable', { name, value }, place)];
  });
}

/** Folders that globs search and that cannot be read: their files may still exist. */
export function unreadableFolders({ pipelines }: ProjectConfig, request: PlanRequest): Diagnostic[] {
  const globs = pipelines.map(({ from }) => ({
    bases: from.filter((glob) => !glob.startsWith('!')).map(globBase),
    isExcluded: from.filter((glob) => glob.startsWith('!')).map((glob) => globTest(glob.slice(1))),
  }));
  const concerns = (folder: string): boolean =>
    globs.some(
      ({ bases, isExcluded }) =>
        bases.some((base) => base === '.' || folder === base || folder.startsWith(`${base}/`)) &&
        !isExcluded.some((test) => test(`${folder}/file`)),
    );
  return [...request.problems()]
    .filter(([folder]) => concerns(folder))
    .map(([folder, reason]) => diagnostic('folder-unreadable', { reason }, { file: folder }));
}
