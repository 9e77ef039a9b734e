import { posix } from 'node:path';
import { byCodeUnits, escapedGlob } from '../files/globs.js';
import { builtFolders, topFolder, type FolderView } from './folder-view.js';
import { groupFiles, type ProposedPipeline } from './pipelines.js';
import { followPages, type ReachedFile, type SiteFiles } from './reach.js';
import { proposeChecks } from './checks.js';
import { Templates } from './templates.js';
import { commonFolder, isForTools, sourceKindOf } from './sources.js';
import { writeProject } from './write.js';
import { compiledPath } from '../languages/formats.js';

export type { FolderView } from './folder-view.js';

/** A proposed project file for a folder, and its parts. */
export interface Proposal {
  /** The text of the project file, with another output folder if one is given. */
  readonly yaml: (output?: string) => string;
  /** The names of its pipelines. */
  readonly pipelines: readonly string[];
  /** True if some of them only check sources. */
  readonly hasChecks: boolean;
  /** True if one of them checks types. */
  readonly checksTypes: boolean;
  /** The output folder, and whether version control ignores it. */
  readonly output: string;
  readonly isOutputShown: boolean;
  /** Files that look like parts of a site, but that no page refers to. */
  readonly leftOut: readonly string[];
  /** Scripts that cannot be built, with the package that each needs. */
  readonly needPackages: ReadonlyMap<string, string>;
  /** Pages that load several classic scripts one after the other, with their number. */
  readonly series: ReadonlyMap<string, number>;
  /** Unresolved URLs in pages, with the files that contain them. */
  readonly unresolved: ReadonlyMap<string, string>;
}

/** Files that are never part of a site. */
const neverPublished =
  /(^|\/)(package(-lock)?\.json|tsconfig[\w.]*\.json|anvil[\w.]*\.(ya?ml|json)|[A-Z]+(\.md)?)$|\.(md|map|lock)$/;

/**
 * Proposes a project file for a folder: it builds what pages refer to, with the same URLs. In a folder without pages,
 * it builds all style sheets and scripts.
 *
 * @returns undefined if there is nothing to build
 */
export function proposeProject(view: FolderView): Proposal | undefined {
  const all = view.files.filter((path) => !neverPublished.test(path) && !isForTools(path));
  const output = outputFolder(view);
  const files = all.filter((path) => !isBuilt(path, view, output));
  const built = all.filter((path) => !files.includes(path) && !view.isIgnored(topFolder(path)));
  const own: FolderView = { ...view, files, built: new Set(built) };
  const templates = new Templates(own);
  const pages = pagesIn(files).filter((path) => !templates.isUsed(path));
  const site = pages.length > 0 ? followPages(pages, own, templates) : withoutPages(own, commandsOf(view));
  const reached = [...site.reached.values()];
  const others = { ...view, files: view.files.filter((path) => topFolder(path) !== output) };
  const facts = {
    entries: site.entries,
    isTemplate: (path: string) => templates.isTemplate(path),
    isBuilt: (path: string) => own.built!.has(path),
    renderStep: renderStep(templates),
  };
  const published = groupFiles(reached, output, others, facts);
  const pipelines = [...published, ...proposeChecks([...reached.map(({ source }) => source), ...site.linked], view)];
  if (published.length === 0) return undefined;
  const leftOut = files.filter(
    (path) =>
      !site.reached.has(path) &&
      !site.linked.has(path) &&
      !site.needPackages.has(path) &&
      !templates.isUsed(path) &&
      !view.isPartial(path),
  );
  return {
    yaml: (other = output) =>
      writeProject(
        pipelines.map((one) =>
          one.to === undefined ? one : { ...one, to: posix.join(other, posix.relative(output, one.to)) },
        ),
        other,
        browsersOf(view),
      ),
    pipelines: pipelines.map(({ name }: ProposedPipeline) => name),
    hasChecks: pipelines.length > published.length,
    checksTypes: pipelines.some(({ steps }) => steps.includes('check: types')),
    output,
    isOutputShown: !view.isIgnored(output),
    leftOut: leftOut.sort(byCodeUnits),
    needPackages: site.needPackages,
    series: site.series,
    unresolved: site.unresolved,
  };
}

/** A project file that renders the pages that are templates, and where each of them is written. */
export interface TemplateDraft {
  readonly yaml: string;
  readonly outputs: ReadonlyMap<string, string>;
}

/** Proposes to render the pages that are templates, to see what they refer to; undefined if there are none. */
export function draftTemplates(view: FolderView): TemplateDraft | undefined {
  const files = view.files.filter((path) => !neverPublished.test(path) && !isForTools(path));
  const templates = new Templates({ ...view, files });
  const output = outputFolder(view);
  const pages = pagesIn(files).filter((path) => !templates.isUsed(path) && !isBuilt(path, view, output));
  const rendered = pages.filter((path) => templates.isTemplate(path));
  if (rendered.length === 0) return undefined;
  const base = commonFolder(rendered);
  const from = rendered.map((path) => `      - ${JSON.stringify(escapedGlob(path))}\n`).join('');
  const yaml = `pipelines:\n  pages:\n    from:\n${from}    base: ${JSON.stringify(base)}\n    steps: [${renderStep(templates)}]\n    to: ${output}\n`;
  return { yaml, outputs: new Map(rendered.map((path) => [path, posix.join(output, posix.relative(base, path))])) };
}

/** The step that renders templates, with folders of other names than the usual ones. */
function renderStep({ layouts, parts }: Templates): string {
  const options = [
    ...(layouts === undefined || layouts === 'layouts' ? [] : [`layouts: ${layouts}`]),
    ...(parts === undefined || parts === 'parts' ? [] : [`parts: ${parts}`]),
  ];
  return options.length === 0 ? 'render' : `{ render: { ${options.join(', ')} } }`;
}

/** Finds the pages of a site; if several folders contain pages, those of the most likely one. */
function pagesIn(files: readonly string[]): string[] {
  return files.filter((path) => sourceKindOf(path) === 'pages' && !/(^|\/)(tests?|coverage|node_modules)\//.test(path));
}

/** Reports whether a file was generated: version control ignores its folder, or its name indicates it. */
function isBuilt(path: string, view: FolderView, output: string): boolean {
  const folder = topFolder(path);
  return folder !== '' && (folder === output || builtFolders.has(folder) || view.isIgnored(folder));
}

/** Chooses the output folder: one that version control already ignores, or else one that does not exist. */
function outputFolder(view: FolderView): string {
  const there = new Set(view.files.map(topFolder));
  const isFree = (name: string): boolean => !there.has(name);
  const ignored = [...builtFolders, 'public'].find((name) => isFree(name) && view.isIgnored(name));
  return ignored ?? ['site', 'built', 'output', 'site-built'].find(isFree) ?? 'site-new';
}

/** Finds the style sheets and scripts of a site without pages. */
function withoutPages({ files, isPartial }: FolderView, commands: string): SiteFiles {
  const reached = new Map<string, ReachedFile>();
  for (const [kind, folder] of [
    ['styles', 'css'],
    ['scripts', 'js'],
  ] as const) {
    const isServer = (path: string): boolean =>
      kind === 'scripts' && (topFolder(path) === '' || commands.includes(path));
    const some = files.filter((path) => sourceKindOf(path) === kind && !isPartial(path) && !isServer(path));
    const base = commonFolder(some);
    const taken = new Set<string>();
    for (const source of some) {
      const address = posix.join(folder, compiledPath(posix.relative(base, source)));
      if (!taken.has(address)) reached.set(source, { source, address });
      taken.add(address);
    }
  }
  const nothing = { entries: new Set<string>(), linked: new Set<string>(), series: new Map<string, number>() };
  return { reached, needPackages: new Map(), unresolved: new Map(), ...nothing };
}

/** The commands in package.json: scripts that they run are not for browsers. */
function commandsOf({ files, read }: FolderView): string {
  return files.includes('package.json') ? read('package.json') : '';
}

/** The target browsers configured in the usual places. */
function browsersOf(view: FolderView): string[] {
  if (!view.files.includes('package.json')) return [];
  try {
    const { browserslist } = JSON.parse(view.read('package.json')) as { browserslist?: unknown };
    return [browserslist].flat().filter((query): query is string => typeof query === 'string');
  } catch {
    return [];
  }
}
