import { posix } from 'node:path';
import { byCodeUnits, escapedGlob, globBase } from '../files/globs.js';
import { topFolder, type FolderView } from './folder-view.js';
import type { ReachedFile } from './reach.js';
import { isVendored, sourceKindOf } from './sources.js';
import { compiledPath, extensionOf } from '../languages/formats.js';

/** One pipeline that `init` proposes. */
export interface ProposedPipeline {
  readonly name: string;
  readonly note: string;
  readonly from: readonly string[];
  /** The `base` of the pipeline, if it differs from that of its globs. */
  readonly base?: string;
  readonly steps: readonly string[];
  /** Undefined for one that only checks its sources. */
  readonly to?: string;
}

/** The steps for the files of a pipeline. */
type Treatment = 'styles' | 'modules' | 'scripts' | 'templates' | 'vendor' | 'pages' | 'files';

const treatments: Readonly<Record<Treatment, { readonly note: string; readonly steps: readonly string[] }>> = {
  styles: { note: 'Style sheets that pages load, for the target browsers', steps: ['compile', 'prefix', 'minify'] },
  modules: {
    note: 'Modules that pages load, each with everything that it imports',
    steps: ['compile', 'link', 'minify'],
  },
  scripts: { note: 'Classic scripts that pages load', steps: ['compile', 'minify'] },
  vendor: { note: 'Scripts of others', steps: ['minify'] },
  templates: { note: 'Pages, rendered: they are templates', steps: ['render'] },
  pages: { note: 'Pages', steps: [] },
  files: { note: 'Files that pages, sheets and scripts refer to', steps: [] },
};

/** Facts about sources that their names do not show. */
export interface SourceFacts {
  /** The modules that pages load. */
  readonly entries: ReadonlySet<string>;
  readonly isTemplate: (path: string) => boolean;
  /** Reports whether a file was built already. */
  readonly isBuilt: (path: string) => boolean;
  /** The step that renders templates, as it is written. */
  readonly renderStep: string;
}

/** The maximum size of a group that is listed file by file if no glob fits. */
const listedFiles = 6;

/** Files that lie in one folder and have URLs in one folder. */
interface Group {
  readonly treatment: Treatment;
  readonly folder: string;
  readonly address: string;
  readonly files: string[];
}

/**
 * Groups files into pipelines, so that each file is written to its URL, and nothing else is.
 *
 * @param output the output folder of the site
 */
export function groupFiles(
  reached: Iterable<ReachedFile>,
  output: string,
  { files, ignored = [], list, isPartial }: FolderView,
  facts: SourceFacts,
): ProposedPipeline[] {
  const groups = new Map<string, Group>();
  for (const file of reached) {
    const one = groupOf(file, facts);
    const key = [one.treatment, one.folder, one.address].join('\0');
    const known = groups.get(key);
    if (known) known.files.push(file.source);
    else groups.set(key, { ...one, files: [file.source] });
  }
  const used = new Set<string>();
  const all = new Set([...files, ...ignored]);
  return split([...groups.values()])
    .sort((a, b) => order.indexOf(a.treatment) - order.indexOf(b.treatment) || byCodeUnits(a.folder, b.folder))
    .map((group): ProposedPipeline => {
      const wanted = new Set(group.files);
      const matches = (glob: string): string[] => list(glob).filter((path) => all.has(path) && !isPartial(path));
      const from = globsFor(group.folder, group.files, wanted, matches);
      const bases = new Set(from.filter((glob) => !glob.startsWith('!')).map(globBase));
      const isBased = bases.size !== 1 || !bases.has(group.folder);
      const { note, steps } = treatments[group.treatment];
      return {
        name: nameFor(group, used),
        note,
        from,
        ...(isBased && { base: group.folder }),
        steps: steps.map((step) => (step === 'render' ? facts.renderStep : step)),
        to: posix.join(output, group.address),
      };
    });
}

const order: readonly Treatment[] = ['styles', 'modules', 'scripts', 'vendor', 'templates', 'pages', 'files'];

/** The group of a file: the source folder and the URL folder that remain without the common end of both paths. */
function groupOf({ source, address }: ReachedFile, { entries, isTemplate, isBuilt }: SourceFacts): Group {
  const kind = sourceKindOf(source);
  const isOthers = isVendored(source) && (kind === 'scripts' || kind === 'styles');
  const isMinified = /\.min\.\w+$/.test(source);
  const own: Treatment = entries.has(source) ? 'modules' : kind === 'pages' && isTemplate(source) ? 'templates' : kind;
  const treatment: Treatment =
    isMinified || isBuilt(source) ? 'files' : isOthers && kind === 'scripts' ? 'vendor' : own;
  const left = (treatment === 'files' || treatment === 'vendor' ? source : compiledPath(source)).split('/');
  const right = address.split('/');
  while (left.length > 0 && right.length > 0 && left.at(-1) === right.at(-1)) {
    left.pop();
    right.pop();
  }
  return { treatment, folder: left.join('/') || '.', address: right.join('/') || '.', files: [] };
}

/**
 * Splits groups that span the whole project: files by their folders, such as images and fonts, and sheets and scripts
 * from different places.
 */
function split(groups: readonly Group[]): Group[] {
  return groups.flatMap((group) => {
    const { treatment, files, folder, address } = group;
    if (treatment === 'pages' || treatment === 'templates' || (treatment !== 'files' && folder !== '.')) return [group];
    const parts = new Map<string, string[]>();
    for (const path of files) {
      const part = topFolder(folder === '.' ? path : path.slice(folder.length + 1));
      parts.set(part, [...(parts.get(part) ?? []), path]);
    }
    return [...parts].map(([part, some]) => ({
      treatment,
      folder: posix.join(folder, part),
      address: posix.join(address, part),
      files: some,
    }));
  });
}

/** Finds globs that match these files and no others: one if possible, otherwise a few, or with exclusions. */
function globsFor(
  folder: string,
  files: readonly string[],
  wanted: ReadonlySet<string>,
  matches: (glob: string) => string[],
): string[] {
  const start = folder === '.' ? '' : `${escapedGlob(folder)}/`;
  const kinds = alternatives([...new Set(files.map(extensionOf))].sort(byCodeUnits));
  const isDeep = files.some((path) => posix.dirname(path) !== folder);
  const glob = `${start}${isDeep ? '**/' : ''}*${kinds}`;
  const found = matches(glob);
  const others = found.filter((path) => !wanted.has(path));
  const isComplete = found.length - others.length === wanted.size;
  if (isComplete && others.length === 0) return [glob];
  const maxOthers = files.length > listedFiles ? files.length : files.length / 4;
  if (!isComplete || others.length > maxOthers) return files.map(escapedGlob).sort(byCodeUnits);
  return [glob, ...others.map((path) => `!${escapedGlob(path)}`)];
}

/** The end of a glob for these extensions; files without an extension have none. */
function alternatives(kinds: readonly string[]): string {
  const named = kinds.filter((kind) => kind !== '');
  if (named.length < kinds.length) return '';
  return named.length === 1 ? `.${named[0]!}` : `.{${named.join(',')}}`;
}

function nameFor({ treatment, folder, address }: Group, used: Set<string>): string {
  const kind = treatment === 'templates' ? 'pages' : treatment === 'modules' ? 'scripts' : treatment;
  const own = kind === 'files' ? posix.basename(folder === '.' ? address : folder) : kind;
  const plain = own.replace(/[^\p{L}\p{N}_.-]/gu, '-').replace(/^[^\p{L}\p{N}]+/u, '') || 'files';
  const taken = (name: string): boolean => used.has(name);
  let name = plain;
  if (taken(name) && folder !== '.') name = `${plain}-${posix.basename(folder).replace(/[^\p{L}\p{N}_.-]/gu, '-')}`;
  for (let number = 2; taken(name); number++) name = `${plain}-${String(number)}`;
  used.add(name);
  return name;
}
