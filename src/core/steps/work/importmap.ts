import { posix } from 'node:path';
import { textOf, withMap, type Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { diagnostic, type Place } from '../../diagnostics/index.js';
import { byCodeUnits } from '../../files/globs.js';
import { packageOf } from '../../files/package-folder.js';
import { decodeText } from '../../files/text.js';
import { extensionOf, isPage } from '../../languages/formats.js';
import { insertionPoint } from '../../languages/html/import-map-place.js';
import { findReferences } from '../../languages/references/index.js';

/** Where names are looked for, and where packages are written. */
export interface ImportMapSettings {
  readonly scripts?: string | readonly string[];
  readonly folder?: string;
}

/** A file of a package, and the path of its output relative to `to`. */
interface PackageFile {
  readonly source: string;
  readonly path: string;
}

/** An import by name, and where it is written. */
interface NamedImport {
  readonly name: string;
  readonly from: string;
  readonly place: Place;
}

/** Specifiers that import maps are for: names, also of files in packages, and of no scheme. */
const isName = (specifier: string): boolean => !/^(\.{0,2}\/|[a-z][a-z\d+.-]*:|#)/i.test(specifier);

/** Writes import maps into pages, and adds the files that they lead to. */
export function mapImports(
  assets: readonly Asset[],
  { scripts = [], folder = 'packages' }: ImportMapSettings,
  context: StepContext,
): readonly Asset[] {
  const pages = assets.filter(({ path }) => isPage(path));
  if (pages.length === 0) return assets;
  const packages = new Packages(folder, context);
  for (const path of [scripts].flat().flatMap((glob) => context.list(glob))) {
    const bytes = context.read(path);
    if (bytes) packages.follow(namesIn(path, decodeText(bytes, path)));
  }
  for (const page of pages) packages.follow(namesIn(page.origins[0] ?? page.path, textOf(page), page, context));
  packages.complete();
  const files = packages.files.map(({ source, path }): Asset => {
    const bytes = context.read(source) ?? new Uint8Array();
    return { id: path, path, bytes, origins: [source], isPristine: false };
  });
  return [...assets.map((asset) => (isPage(asset.path) ? packages.written(asset) : asset)), ...files];
}

/** The imports by name in a script or a page. */
function namesIn(file: string, text: string, page?: Asset, context?: StepContext): readonly NamedImport[] {
  const found = findReferences(page?.path ?? file, new TextEncoder().encode(text))?.references ?? [];
  return found.flatMap(({ use, url, start, end }) => {
    if (use !== 'import' || !isName(url)) return [];
    const place =
      page && context ? context.place(page, text, start, end) : { file, text, offsets: [start, end] as const };
    return [{ name: url, from: file, place }];
  });
}

/** The packages that are imported by name, and everything that they import. */
class Packages {
  /** By the name that is imported, the path of the file. */
  readonly #imports = new Map<string, string>();
  /** Names that mean something else in the folder of a package. */
  readonly #scopes = new Map<string, Map<string, string>>();
  readonly #files = new Map<string, PackageFile>();
  /** What packages import by name, with their folders: the names in the project come first. */
  readonly #open: (NamedImport & { readonly scope: string })[] = [];

  constructor(
    private readonly folder: string,
    private readonly context: StepContext,
  ) {}

  get files(): readonly PackageFile[] {
    return [...this.#files.values()].sort((a, b) => byCodeUnits(a.path, b.path));
  }

  follow(imports: readonly NamedImport[]): void {
    for (const one of imports) {
      const target = this.#resolve(one);
      if (target !== undefined) this.#imports.set(one.name, target);
    }
  }

  /** A page with its import map (HTML, "import maps"). */
  written(page: Asset): Asset {
    if (this.#imports.size === 0) return page;
    const text = textOf(page);
    const at = insertionPoint(text);
    if (at === undefined) {
      this.context.report(diagnostic('importmap-there', {}, { file: page.origins[0] ?? page.path }));
      return page;
    }
    const url = (path: string): string => {
      const relative = posix.relative(posix.dirname(page.path), path);
      const written = relative.split('/').map(encodeURIComponent).join('/').replaceAll('%40', '@');
      return written.startsWith('..') ? written : `./${written}`;
    };
    const entries = (map: ReadonlyMap<string, string>): Record<string, string> =>
      Object.fromEntries([...map].sort(([a], [b]) => byCodeUnits(a, b)).map(([name, path]) => [name, url(path)]));
    const scopes = [...this.#scopes].map(([scope, map]) => [`${url(scope)}/`, entries(map)] as const);
    const map = {
      imports: entries(this.#imports),
      ...(scopes.length > 0 && { scopes: Object.fromEntries(scopes) }),
    };
    const json = JSON.stringify(map).replaceAll('<', '\\u003c');
    return withMap(page, `${text.slice(0, at)}<script type="importmap">${json}</script>\n${text.slice(at)}`, undefined);
  }

  /** Adds the file that a name leads to, and those that it imports; returns the path of its output. */
  #resolve({ name, from, place }: NamedImport): string | undefined {
    const source = this.context.resolve(name, from);
    if (typeof source === 'string' && packageOf(source)) return this.#add(source, place);
    this.context.report(diagnostic('importmap-missing', { name }, place));
    return undefined;
  }

  #add(source: string, place: Place): string {
    const known = this.#files.get(source);
    if (known) return known.path;
    const { name = '', folder = '', inside = source } = packageOf(source) ?? {};
    // A copy inside of another package lies in the folder of that.
    const root = posix.join(this.folder, folder.replace(/^.*?node_modules\//, '').replaceAll('/node_modules/', '/'));
    const path = posix.join(root, inside);
    this.#files.set(source, { source, path });
    const bytes = this.context.read(source);
    if (!bytes || !/^[cm]?js$/.test(extensionOf(source))) return path;
    const text = decodeText(bytes, source);
    const found = findReferences(source, bytes);
    if (found?.exports === undefined && /\b(module\.exports|exports\.\w+\s*=|require\()/.test(text))
      this.context.report(diagnostic('importmap-commonjs', { name }, place));
    for (const { use, url, start, end } of found?.references ?? []) {
      if (use !== 'import') continue;
      const at: Place = { file: source, text, offsets: [start, end] };
      if (isName(url) || url.startsWith('#')) this.#open.push({ name: url, from: source, place: at, scope: root });
      else {
        const target = this.context.resolve(url, source);
        if (typeof target === 'string') this.#add(target, place);
      }
    }
    return path;
  }

  /** Adds what packages import by name: for all, unless a name means another file elsewhere. */
  complete(): void {
    for (let one = this.#open.shift(); one; one = this.#open.shift()) {
      const target = this.#resolve(one);
      if (target === undefined) continue;
      const before = this.#imports.get(one.name);
      // Names that begin with `#` are those of the package alone.
      const isShared = !one.name.startsWith('#');
      if (before === undefined && isShared) this.#imports.set(one.name, target);
      else if (before !== target)
        this.#scopes.set(one.scope, (this.#scopes.get(one.scope) ?? new Map()).set(one.name, target));
    }
  }
}
