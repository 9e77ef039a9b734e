import { createRequire } from 'node:module';
import { posix } from 'node:path';
import type ts from 'typescript';
import { importsOf } from '../compilers/imports.js';
import { byCodeUnits, escapedGlob } from '../files/globs.js';
import { pageLoads } from '../languages/html/page-loads.js';
import { findReferences, localPath, pagesFor, type Reference } from '../languages/references/index.js';
import { encodeText } from '../files/text.js';
import type { FolderView } from './folder-view.js';
import type { Templates } from './templates.js';
import { beforeCompiling, commonFolder, isForTools, sourceKindOf } from './sources.js';
import { compiledPath, extensionsWhere, formatOf } from '../languages/formats.js';

/** A file of the site with its URL. */
export interface ReachedFile {
  readonly source: string;
  /** Its URL after compiling, relative to the root of the site. */
  readonly address: string;
}

/** The files of a site. */
export interface SiteFiles {
  /** By source. */
  readonly reached: ReadonlyMap<string, ReachedFile>;
  /** Scripts that cannot be built here, by source, with the package that each needs. */
  readonly needPackages: ReadonlyMap<string, string>;
  /** Unresolved URLs, with the files that contain them. */
  readonly unresolved: ReadonlyMap<string, string>;
  /** The modules that pages load, from which others are linked. */
  readonly entries: ReadonlySet<string>;
  /** The modules that are linked into others. */
  readonly linked: ReadonlySet<string>;
  /** Pages that load several classic scripts one after the other, with their number. */
  readonly series: ReadonlyMap<string, number>;
}

/** Files in the root of a site that are not referenced, because programs find them by name. */
const wellKnown =
  /^(robots\.txt|favicon\.(ico|svg|png)|sitemap[\w-]*\.xml|humans\.txt|ads\.txt|security\.txt|CNAME|_headers|_redirects|[\w-]+\.webmanifest|manifest\.json|browserconfig\.xml|apple-touch-icon[\w-]*\.png)$/;

/** Strings in scripts that may be file names. */
const fileNames =
  /(["'`])((?:[\w.-]+\/)*[\w.-]+\.(?:json|txt|csv|svg|png|jpe?g|gif|webp|avif|mp3|mp4|ogg|webm|wasm|html|xml|glb|pdf))\1/g;

/**
 * Follows references from pages to all files of the site: each keeps its URL.
 *
 * @param pages paths relative to the folder
 */
export function followPages(pages: readonly string[], view: FolderView, templates: Templates): SiteFiles {
  const first = new Follower(pages, view, templates, new Set()).result();
  if (first.needPackages.size === 0) return first;
  // Files that only skipped scripts refer to are not part of the site either.
  const { reached, unresolved, entries, linked, series } = new Follower(
    pages,
    view,
    templates,
    new Set(first.needPackages.keys()),
  ).result();
  return { reached, unresolved, entries, linked, series, needPackages: first.needPackages };
}

class Follower implements SiteFiles {
  readonly reached = new Map<string, ReachedFile>();
  readonly needPackages = new Map<string, string>();
  readonly unresolved = new Map<string, string>();
  readonly entries = new Set<string>();
  readonly linked = new Set<string>();
  readonly series = new Map<string, number>();
  /** The names that import maps of pages define: modules are not linked where there are any. */
  readonly #mapped = new Set<string>();
  readonly #files: ReadonlySet<string>;
  readonly #byName = new Map<string, string[]>();
  readonly #open: ReachedFile[] = [];
  /** The importers of each script. */
  readonly #importers = new Map<string, Set<string>>();
  readonly #base: string;

  constructor(
    pages: readonly string[],
    private readonly view: FolderView,
    private readonly templates: Templates,
    /** Finds scripts that cannot be built. */
    private readonly excluded: ReadonlySet<string>,
  ) {
    this.#files = new Set(view.files);
    for (const path of view.files) {
      const name = posix.basename(path);
      this.#byName.set(name, [...(this.#byName.get(name) ?? []), path]);
    }
    this.#base = this.#siteFolder(pages);
    for (const page of pages)
      for (const name of findReferences('a.html', encodeText(templates.textOf(page)))?.importMap ?? [])
        this.#mapped.add(name);
    for (const page of pages) this.#reach(page, posix.relative(this.#base, page));
    const folder = this.#base === '.' ? '' : `${this.#base}/`;
    for (const path of view.files)
      if (path.startsWith(folder) && wellKnown.test(path.slice(folder.length)))
        this.#reach(path, path.slice(folder.length));
  }

  result(): SiteFiles {
    for (let file = this.#open.pop(); file; file = this.#open.pop()) this.#follow(file);
    this.#addImporters();
    return this;
  }

  /** The folder that contains all pages, and what they refer to above themselves. */
  #siteFolder(pages: readonly string[]): string {
    const above = pages.flatMap((page) => {
      const text = this.templates.textOf(page);
      const references = findReferences('a.html', encodeText(text))?.references ?? [];
      const paths = references.flatMap(({ url }) => (url.startsWith('../') ? (localPath(url) ?? []) : []));
      return paths.map((path) => posix.join(posix.dirname(page), path)).filter((path) => this.#isFile(path));
    });
    return commonFolder([...pages, ...above]);
  }

  #isFile(path: string): boolean {
    return this.#files.has(path) || this.view.built?.has(path) === true;
  }

  #reach(source: string, address: string): void {
    if (this.reached.has(source) || this.excluded.has(source)) return;
    const file = { source, address };
    this.reached.set(source, file);
    this.#open.push(file);
  }

  #follow({ source, address }: ReachedFile): void {
    const kind = sourceKindOf(source);
    if (kind === 'styles') return this.#followSheet(source, address, new Set());
    const text = kind === 'pages' ? this.templates.textOf(source) : this.view.read(source);
    if (kind === 'pages') this.#notePage(source, text);
    for (const one of this.#referencesIn(source, text)) this.#resolve(one, source, address);
    if (kind !== 'scripts') return;
    for (const [, , name] of text.matchAll(fileNames)) this.#resolveName(name!, source, address);
  }

  /** Takes note of the scripts that a page loads. */
  #notePage(page: string, text: string): void {
    const loads = pageLoads(text);
    this.#modules = new Set(loads.flatMap(({ kind, url }) => (kind === 'module' ? [url] : [])));
    const classic = loads.filter(({ kind, url }) => kind === 'script' && localPath(url) !== undefined).length;
    if (classic > 1) this.series.set(page, classic);
  }

  /** The URLs of the modules that the page loads that is being followed. */
  #modules: ReadonlySet<string> = new Set();

  #referencesIn(path: string, text: string): readonly Reference[] {
    if (formatOf(path)?.kind === 'script' && compiledPath(path) !== path) {
      const { specifiers, hasJsx } = importsOf(path, text);
      const library = hasJsx ? jsxLibrary(path, text, this.view) : undefined;
      if (hasJsx && library === undefined) this.needPackages.set(path, 'no tsconfig.json says what its JSX calls');
      return [...specifiers, ...(library ?? [])].map((url) => ({ use: 'import', url, start: 0, end: 0 }));
    }
    return findReferences(compiledPath(path), encodeText(text))?.references ?? [];
  }

  /** A sheet and its partials, whose URLs are relative to the compiled sheet. */
  #followSheet(source: string, address: string, seen: Set<string>): void {
    if (seen.has(source)) return;
    seen.add(source);
    const text = this.view.read(source);
    for (const one of findReferences('a.css', encodeText(text))?.references ?? []) {
      const isSass = formatOf(source)?.compiler === 'sass';
      if (isSass && /@import\s+$/.test(text.slice(0, one.start))) continue;
      this.#resolve(one, source, address);
    }
    for (const [, , , url = ''] of text.matchAll(/@(use|forward|import)\s+(["'])(.+?)\2/g)) {
      const path = posix.join(posix.dirname(source), url);
      const [folder, name] = [posix.dirname(path), posix.basename(path)];
      const partials = extensionsWhere(({ compiler }) => compiler === 'sass').flatMap((one) => [
        posix.join(folder, `_${name}.${one}`),
        posix.join(folder, `${name}.${one}`),
        posix.join(path, `_index.${one}`),
      ]);
      for (const partial of partials) if (this.#files.has(partial)) this.#followSheet(partial, address, seen);
    }
  }

  #resolve({ url, use }: Reference, source: string, address: string): void {
    const isBare = use === 'import' && !/^(\.{0,2}\/|[a-z][a-z0-9+.-]*:)/i.test(url);
    if (isBare) {
      if (!this.#isMapped(url) && !this.#isInstalled(url, source)) this.needPackages.set(source, url);
      return;
    }
    // e.g. a variable of a template
    if (url.includes('{{')) return;
    if (use === 'require' || use === 'endpoint') return;
    const path = localPath(url);
    if (path === undefined) return;
    const isRooted = path.startsWith('/');
    const target = isRooted ? path.slice(1) : posix.join(posix.dirname(address), path);
    if (target.startsWith('../')) return void this.unresolved.set(url, source);
    const beside = isRooted ? posix.join(this.#base, path) : posix.join(posix.dirname(source), path);
    const wanted = use === 'page' ? pagesFor(target) : use === 'import' ? modulesFor(target) : [target];
    const places = use === 'page' ? pagesFor(beside) : use === 'import' ? modulesFor(beside) : [beside];
    for (const [index, place] of places.entries()) {
      const found = this.#find(place, wanted[index]!);
      if (found === undefined) continue;
      if (use === 'import') this.#importers.set(found, (this.#importers.get(found) ?? new Set()).add(source));
      if (sourceKindOf(source) === 'pages') this.#noteEntry(found, use === 'import' || this.#modules.has(url));
      else if (use === 'import' && (this.entries.has(source) || this.linked.has(source)))
        return this.#link(found, address);
      return this.#reach(found, compiledPath(wanted[index]!));
    }
    this.unresolved.set(url, source);
  }

  /** A module that a page loads is an entry point, unless the page says where packages are. */
  #noteEntry(path: string, isModule: boolean): void {
    if (isModule && sourceKindOf(path) === 'scripts' && this.#mapped.size === 0) this.entries.add(path);
  }

  /** A module that becomes part of another: only what it refers to is published. */
  #link(source: string, address: string): void {
    if (this.linked.has(source) || this.excluded.has(source)) return;
    this.linked.add(source);
    this.#open.push({ source, address: posix.join(posix.dirname(address), posix.basename(compiledPath(source))) });
  }

  #isMapped(name: string): boolean {
    return [...this.#mapped].some((key) => key === name || (key.endsWith('/') && name.startsWith(key)));
  }

  /** Reports whether a module can be linked with an installed package. */
  #isInstalled(specifier: string, source: string): boolean {
    if (!this.entries.has(source) && !this.linked.has(source)) return false;
    const [name = ''] = /^(?:@[^/]+\/)?[^/]+/.exec(specifier) ?? [];
    return this.view.list(`node_modules/${escapedGlob(name)}/package.json`).length > 0;
  }

  /** A file named by a string in a script: relative to the page, or to the script. */
  #resolveName(name: string, source: string, address: string): void {
    const path = name.replace(/^\.\//, '');
    for (const [place, target] of [
      [posix.join(this.#base, path), path],
      [posix.join(posix.dirname(source), path), posix.join(posix.dirname(address), path)],
    ] as const)
      if (this.#files.has(place) && !this.linked.has(place) && !target.startsWith('../'))
        return this.#reach(place, target);
  }

  /**
   * The source of a URL: at its path, also before compiling, or else the only file elsewhere with the same end of its
   * path.
   */
  #find(place: string, address: string): string | undefined {
    const near = beforeCompiling(place).find((one) => this.#files.has(one) && !isForTools(one));
    if (near !== undefined) return near;
    if (this.view.built?.has(place) === true) return place;
    const names = beforeCompiling(posix.basename(address));
    const elsewhere = names.flatMap((name) => this.#byName.get(name) ?? []).filter((one) => !isForTools(one));
    const ranked = elsewhere.map((path) => ({ path, shared: sharedEnd(compiledPath(path), address) }));
    ranked.sort((a, b) => b.shared - a.shared || byCodeUnits(a.path, b.path));
    const [best, next] = ranked;
    return best && (!next || next.shared < best.shared || isCompiledBeside(best.path, next.path))
      ? best.path
      : undefined;
  }

  /** A script that imports one that cannot be built cannot be built either. */
  #addImporters(): void {
    for (const [source, name] of this.needPackages)
      for (const importer of this.#importers.get(source) ?? [])
        if (!this.needPackages.has(importer)) this.needPackages.set(importer, name);
  }
}

/** What importing JSX imports besides, by the nearest tsconfig.json or a comment; undefined if neither says. */
function jsxLibrary(path: string, text: string, { read }: FolderView): readonly string[] | undefined {
  const [, named] = /@jsxImportSource\s+(\S+)/.exec(text) ?? [];
  if (named !== undefined) return [`${named}/jsx-runtime`];
  for (let folder = posix.dirname(path); ; folder = posix.dirname(folder)) {
    const config = jsxOptions(posix.join(folder, 'tsconfig.json'), read);
    if (config?.jsx?.startsWith('react-jsx')) return [`${config.jsxImportSource ?? 'react'}/jsx-runtime`];
    // Factories are imported, or global.
    if (config?.jsx !== undefined) return [];
    if (folder === '.') return undefined;
  }
}

interface JsxOptions {
  readonly jsx?: string;
  readonly jsxImportSource?: string;
}

/** What a tsconfig.json, and those of the project that it extends, say of JSX. */
function jsxOptions(path: string, read: FolderView['read'], open: readonly string[] = []): JsxOptions | undefined {
  const text = open.includes(path) ? '' : read(path);
  if (text === '') return undefined;
  const { parseConfigFileTextToJson } = createRequire(import.meta.url)('typescript') as typeof ts;
  const config = (parseConfigFileTextToJson(path, text).config ?? {}) as {
    readonly compilerOptions?: JsxOptions;
    readonly extends?: unknown;
  };
  const parents = [config.extends ?? []].flat().filter((one): one is string => typeof one === 'string');
  const inherited = parents
    .filter((one) => /^\.{1,2}\//.test(one))
    .map((one) => posix.join(posix.dirname(path), /\.json$/.test(one) ? one : `${one}.json`))
    .map((one) => jsxOptions(one, read, [...open, path]));
  return Object.assign({}, ...inherited, config.compilerOptions) as JsxOptions;
}

/** The number of names that two paths share at their ends. */
function sharedEnd(a: string, b: string): number {
  const [left, right] = [a.split('/').toReversed(), b.split('/').toReversed()];
  let count = 0;
  while (count < left.length && left[count] === right[count]) count++;
  return count;
}

/** Reports whether one of two files compiles to the other. */
function isCompiledBeside(a: string, b: string): boolean {
  return compiledPath(a) === compiledPath(b);
}

/** The files that an import may refer to (as compilers resolve specifiers without an extension). */
function modulesFor(path: string): string[] {
  if (/\.[cm]?[jt]sx?$|\.(json|css)$/.test(path)) return [path];
  // e.g. a text
  const itself = /\.\w+$/.test(path) ? [path] : [];
  return [...itself, `${path}.js`, `${path}.mjs`, posix.join(path, 'index.js')];
}
