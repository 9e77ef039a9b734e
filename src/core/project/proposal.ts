import { posix } from 'node:path';
import { parse, type DefaultTreeAdapterTypes as Tree } from 'parse5';
import { stringify } from 'yaml';
import { byCodeUnits, escapedGlob, globBase, globTest } from '../files/globs.js';

/** What a folder looks like to `init`. */
export interface FolderView {
  /** Every file, relative to the folder, with `/`; packages and hidden files left out. */
  readonly files: readonly string[];
  /** The text of a file. */
  readonly read: (path: string) => string;
  /** Whether a file is a partial of a language that has them. */
  readonly isPartial: (path: string) => boolean;
}

/** One pipeline that `init` proposes. */
interface ProposedPipeline {
  readonly name: string;
  readonly note: string;
  readonly from: readonly string[];
  /** What the paths of outputs begin below, when it is not what stands before the wildcards. */
  readonly base?: string;
  readonly steps: readonly string[];
  readonly to: string;
}

/** A project file for a folder, and what it is made of. */
export interface Proposal {
  readonly yaml: string;
  /** Names of the pipelines in it. */
  readonly pipelines: readonly string[];
  /** The folder that it builds into. */
  readonly output: string;
}

const extensions = {
  styles: ['scss', 'sass', 'css'],
  scripts: ['ts', 'tsx', 'mts', 'jsx', 'js', 'mjs'],
  pages: ['html', 'htm'],
  files: ['png', 'jpg', 'jpeg', 'gif', 'webp', 'avif', 'svg', 'ico', 'woff', 'woff2', 'ttf', 'webmanifest'],
} as const;

/** Extensions that compiling changes. */
const compiled: Readonly<Record<string, string>> = {
  scss: 'css',
  sass: 'css',
  ts: 'js',
  tsx: 'js',
  jsx: 'js',
  mts: 'mjs',
};

/** Names of folders that hold what was built, not what builds from. */
const builtFolders = /^(dist|build|out|site|public|coverage|docs|test|tests)\//;

/** Files of the workshop: settings of tools, and tests. */
const workshopFiles = /\.(config|conf|test|spec|stories)\.[cm]?[jt]sx?$/;

/** Folders of scripts that somebody else wrote. */
const vendorFolders = /^(?:.*?\/)?(?:vendor|third-party|thirdparty)\//;

/**
 * Proposes a project file that builds what a folder holds.
 *
 * @returns nothing when there is nothing to build
 */
export function proposeProject(view: FolderView): Proposal | undefined {
  const sources = view.files.filter((path) => !builtFolders.test(path));
  const workshop = sources.filter((path) => workshopFiles.test(path));
  const files = sources.filter((path) => !workshopFiles.test(path));
  const output =
    ['site', 'built', 'output', 'site-built'].find((name) => !view.files.some((path) => path.startsWith(`${name}/`))) ??
    'site-new';
  const of = (kind: keyof typeof extensions): string[] =>
    files.filter((path) => (extensions[kind] as readonly string[]).includes(extensionOf(path))).sort(byCodeUnits);
  const styles = of('styles').filter((path) => !view.isPartial(path));
  const scripts = of('scripts').filter((path) => !view.isPartial(path));
  const vendor = scripts.filter((path) => vendorFolders.test(path));
  const own = scripts.filter((path) => !vendorFolders.test(path));
  const pages = of('pages');
  const links = linksOf(pages, view);
  const isTyped = (path: string): boolean => /\.[cm]?tsx?$|\.jsx$/.test(path);
  const typed = own.some(isTyped);
  const taken = new Set<string>();
  const propose = (one: Wanted): ProposedPipeline[] => proposePipeline(one, workshop, taken);
  const found = [
    ...propose({
      name: 'styles',
      note: 'Style sheets',
      files: styles,
      steps: ['compile', 'prefix', 'minify'],
      to: posix.join(output, folderIn(links, styles, 'css', 'css')),
    }),
    ...propose({
      name: 'scripts',
      note: typed ? 'Scripts, each as a module of its own' : 'Scripts',
      files: own,
      others: vendor,
      steps: ['compile', 'minify'],
      to: posix.join(output, folderIn(links, own, 'js', 'js')),
    }),
    ...propose({
      name: 'vendor',
      note: 'Scripts of others',
      files: vendor,
      steps: vendor.some(isTyped) ? ['compile', 'minify'] : ['minify'],
      to: posix.join(output, folderIn(links, vendor, 'js', 'js')),
    }),
    ...propose({ name: 'pages', note: 'Pages, copied', files: pages, steps: [], to: output }),
    ...copied(of('files'), output, files).flatMap(propose),
  ];
  if (found.length === 0) return undefined;
  return { yaml: write(found, output, browsersOf(view)), pipelines: found.map((one) => one.name), output };
}

/** What a pipeline is to be made for. */
interface Wanted extends Omit<ProposedPipeline, 'from' | 'base'> {
  readonly files: readonly string[];
  /** Files that have a pipeline of their own, in folders of their own. */
  readonly others?: readonly string[];
  /** Globs for the files, when they are known. */
  readonly globs?: readonly string[];
}

/**
 * A pipeline for files, if there are any.
 *
 * @param workshop files of the workshop, which globs might match
 * @param taken the outputs of other pipelines; those of this one are added
 */
function proposePipeline(wanted: Wanted, workshop: readonly string[], taken: Set<string>): ProposedPipeline[] {
  const { name, note, files, steps, to, globs = globsFor(files), others = [] } = wanted;
  if (files.length === 0) return [];
  const isCompiled = steps.includes('compile');
  const kept = isCompiled ? withoutCompiled(files) : files;
  const tests = globs.map((glob) => ({ base: globBase(glob), test: globTest(glob) }));
  const foreign = others.filter((path) => tests.some(({ test }) => test(path)));
  const left = [
    ...new Set(foreign.map((path) => `!${escapedGlob(vendorFolders.exec(path)![0])}**`)),
    ...files.filter((path) => !kept.includes(path)).map((path) => `!${escapedGlob(path)}`),
  ];
  const targets = (base?: string): string[] =>
    kept.map((path) => {
      const start = base ?? tests.find(({ test }) => test(path))?.base ?? '.';
      return posix.join(to, posix.relative(start, isCompiled ? afterCompiling(path) : path));
    });
  // Files of one name in several folders, or of several pipelines, would be written over each other.
  const collide = (paths: readonly string[]): boolean =>
    new Set(paths).size < paths.length || paths.some((path) => taken.has(path));
  const base = collide(targets()) ? '.' : undefined;
  const outputs = targets(base);
  const isTaken = collide(outputs);
  for (const path of outputs) taken.add(isTaken ? posix.join(name, path) : path);
  const from = [...globs, ...negationsFor(globs, workshop), ...left];
  return [{ name, note, from, ...(base !== undefined && { base }), steps, to: isTaken ? posix.join(to, name) : to }];
}

function afterCompiling(path: string): string {
  const extension = extensionOf(path);
  return Object.hasOwn(compiled, extension) ? `${path.slice(0, -extension.length)}${compiled[extension]!}` : path;
}

/** Leaves out what was compiled from a source that lies beside it, and what would end under the same name. */
function withoutCompiled(files: readonly string[]): string[] {
  const order = [...extensions.styles, ...extensions.scripts] as readonly string[];
  const first = new Map<string, string>();
  for (const path of files.toSorted((a, b) => order.indexOf(extensionOf(a)) - order.indexOf(extensionOf(b)))) {
    const made = afterCompiling(path);
    if (!first.has(made)) first.set(made, path);
  }
  return files.filter((path) => first.get(afterCompiling(path)) === path);
}

/** Takes away from globs what belongs to the workshop. */
function negationsFor(globs: readonly string[], workshop: readonly string[]): string[] {
  return globs.flatMap((glob) => {
    const kinds = new Set(workshop.filter(globTest(glob)).map((path) => workshopFiles.exec(path)![1]!));
    const start = glob.slice(0, glob.lastIndexOf('/') + 1);
    return kinds.size === 0 ? [] : [`!${start}*.${alternatives([...kinds].sort(byCodeUnits))}.*`];
  });
}

/** Pictures and fonts, a pipeline for each folder that holds some, under the name that pages know them by. */
function copied(files: readonly string[], output: string, all: readonly string[]): Wanted[] {
  const pagesFolder = commonFolder(
    all.filter((path) => (extensions.pages as readonly string[]).includes(extensionOf(path))),
  );
  const folders = [...new Set(files.map((path) => firstFolderBelow(path, pagesFolder)))].sort(byCodeUnits);
  const used = new Set(['styles', 'scripts', 'vendor', 'pages']);
  return folders.map((folder) => {
    const inside = files.filter((path) => firstFolderBelow(path, pagesFolder) === folder);
    const name = nameFor(folder === '.' ? 'files' : posix.basename(folder), used);
    const kinds = [...new Set(inside.map(extensionOf))].sort(byCodeUnits);
    const depth = folder === '.' ? '' : `${escapedGlob(folder)}/**/`;
    const to = folder === '.' ? output : posix.join(output, posix.basename(folder));
    const globs = [`${depth}*.${alternatives(kinds)}`];
    return { name, note: 'Pictures and fonts, copied', files: inside, globs, steps: [], to };
  });
}

function firstFolderBelow(path: string, base: string): string {
  const folder = posix.dirname(path);
  if (folder === '.' || folder === base) return folder;
  const rest = base !== '.' && folder.startsWith(`${base}/`) ? folder.slice(base.length + 1) : folder;
  const prefix = rest === folder ? '' : `${base}/`;
  return rest.startsWith('src/') ? prefix + rest.split('/').slice(0, 2).join('/') : prefix + rest.split('/')[0]!;
}

function nameFor(wanted: string, used: Set<string>): string {
  const plain = wanted.replace(/[^\p{L}\p{N}_.-]/gu, '-').replace(/^[^\p{L}\p{N}]+/u, '') || 'files';
  let name = used.has(plain) ? `${plain}-files` : plain;
  for (let number = 2; used.has(name); number++) name = `${plain}-${String(number)}`;
  used.add(name);
  return name;
}

/** One glob for all files where one can say it; sheets in one folder, or below one. */
function globsFor(files: readonly string[]): string[] {
  const folder = commonFolder(files);
  const kinds = [...new Set(files.map(extensionOf))].sort(byCodeUnits);
  const deep = files.some((path) => posix.dirname(path) !== folder);
  // Below the top folder, a deep glob would reach into everything else.
  if (folder === '.' && deep)
    return [...new Set(files.map((path) => path.split('/')[0]!))].flatMap((top) =>
      files.includes(top) ? [escapedGlob(top)] : globsFor(files.filter((path) => path.startsWith(`${top}/`))),
    );
  const start = folder === '.' ? '' : `${escapedGlob(folder)}/`;
  return [`${start}${deep ? '**/' : ''}*.${alternatives(kinds)}`];
}

const alternatives = (kinds: readonly string[]): string => (kinds.length === 1 ? kinds[0]! : `{${kinds.join(',')}}`);

function commonFolder(files: readonly string[]): string {
  const [first, ...rest] = files.map((path) => posix.dirname(path).split('/'));
  if (!first) return '.';
  let length = first.length;
  for (const parts of rest)
    while (length > 0 && parts.slice(0, length).join('/') !== first.slice(0, length).join('/')) length--;
  return first.slice(0, length).join('/') || '.';
}

const extensionOf = (path: string): string => posix.extname(path).slice(1).toLowerCase();

/** Addresses of sheets and scripts in the pages, relative to the folder of the pages. */
function linksOf(pages: readonly string[], view: FolderView): string[] {
  const base = commonFolder(pages);
  return pages.flatMap((page) => {
    const folder = posix.relative(base, posix.dirname(page));
    return addressesIn(view.read(page)).flatMap((address) => {
      const path = address.replace(/[?#].*$/, '');
      if (!/\.(css|m?js)$/i.test(path) || /^[a-z]+:|^\/\//i.test(path)) return [];
      return [path.startsWith('/') ? path.slice(1) : posix.join(folder, path)];
    });
  });
}

function addressesIn(page: string): string[] {
  const found: string[] = [];
  const open: Tree.Node[] = [parse(page)];
  for (let node = open.pop(); node; node = open.pop()) {
    if ('childNodes' in node) open.push(...node.childNodes.toReversed());
    if (!('attrs' in node) || !/^(link|script)$/.test(node.tagName)) continue;
    const address = node.attrs.find(({ name }) => name === 'href' || name === 'src')?.value.trim();
    if (address) found.push(address);
  }
  return found;
}

/** The folder in which the pages expect what these sources become. */
function folderIn(links: readonly string[], sources: readonly string[], kind: string, otherwise: string): string {
  const base = commonFolder(sources);
  for (const source of sources) {
    const rest = posix.relative(base, source).replace(/\.[^.]+$/, `.${kind}`);
    const link = links.find((one) => one === rest || one.endsWith(`/${rest}`));
    if (link !== undefined && !link.startsWith('..'))
      return link.slice(0, link.length - rest.length).replace(/\/$/, '') || '.';
  }
  return otherwise;
}

/** Target browsers that the folder names in the usual place. */
function browsersOf(view: FolderView): string[] {
  if (!view.files.includes('package.json')) return [];
  try {
    const { browserslist } = JSON.parse(view.read('package.json')) as { browserslist?: unknown };
    return [browserslist].flat().filter((query): query is string => typeof query === 'string');
  } catch {
    return [];
  }
}

function write(pipelines: readonly ProposedPipeline[], output: string, browsers: readonly string[]): string {
  const scalar = (text: string): string => stringify(text).trimEnd();
  const list = (items: readonly string[]): string =>
    items.length === 1 ? scalar(items[0]!) : `[${items.map((item) => JSON.stringify(item)).join(', ')}]`;
  const lines = [
    '# yaml-language-server: $schema=./anvil.schema.json',
    '',
    `browsers: ${browsers.length > 0 ? list(browsers) : 'defaults'}`,
    '',
    'pipelines:',
    ...pipelines.flatMap(({ name, note, from, base, steps, to }, index) => [
      ...(index > 0 ? [''] : []),
      `  # ${note}`,
      `  ${name}:`,
      `    from: ${list(from)}`,
      ...(base === undefined ? [] : [`    base: ${scalar(base)}`]),
      ...(steps.length > 0
        ? [
            `    steps: [${steps.map((step) => (step === 'minify' ? '{ minify: { only: production } }' : step)).join(', ')}]`,
          ]
        : []),
      `    to: ${scalar(to)}`,
    ]),
    '',
    'serve:',
    `  folder: ${scalar(output)}`,
  ];
  return `${lines.join('\n')}\n`;
}
