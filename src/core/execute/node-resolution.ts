import { posix } from 'node:path';
import { fail } from '../diagnostics/index.js';
import { foldersAbove, packageFolders } from '../files/package-folder.js';
import { exportsTarget, importsTarget } from '../files/package-targets.js';
import { decodeText } from '../files/text.js';
import { extensionOf, extensionsWhere, withExtension } from '../languages/formats.js';
import { jsonErrorOf } from '../languages/json-error.js';

/** The file access that resolution needs; every lookup is recorded. */
export interface ResolutionFiles {
  read(path: string): Uint8Array | undefined;
  exists(path: string): boolean;
}

/** The kind of a request: of an ES module, of `require`, or of `@import` in a style sheet. */
export type RequestKind = 'import' | 'require' | 'style';

/** How a specifier is resolved. */
export interface ResolutionOptions {
  /** `import` by default. */
  readonly kind?: RequestKind;
  /** Conditions of `exports` and `imports` besides `browser`, `default`, and `import`, `require` or `style`. */
  readonly conditions?: readonly string[];
}

/** The fields of a package's manifest that name its entry point, in order of precedence. */
const mainFields: Readonly<Record<RequestKind, readonly string[]>> = {
  import: ['browser', 'module', 'main'],
  require: ['browser', 'main'],
  style: ['style', 'main'],
};

interface Manifest {
  readonly name: string;
  readonly exports?: unknown;
  readonly imports?: unknown;
  /** The replacements of files and packages in browsers; false for those that are left out. */
  readonly browser?: string | Readonly<Record<string, string | false>>;
}

/**
 * Resolves an import specifier as Node.js does for ES modules (Node.js documentation, "ESM resolution algorithm"), with
 * the conditions of browsers, and with file extensions as CommonJS packages omit them.
 *
 * @param specifier a relative URL, a package name with an optional subpath, or `#name` of the package's own `imports`
 * @param from the importing file, relative to the project
 * @returns the file, relative to the project; undefined if there is none, and for absolute URLs; false if the package leaves
 *   it out in browsers
 */
export function resolveSpecifier(
  specifier: string,
  from: string,
  files: ResolutionFiles,
  options: ResolutionOptions = {},
): string | false | undefined {
  return new Resolution(files, options).resolve(specifier, from);
}

class Resolution {
  readonly #kind: RequestKind;
  readonly #conditions: ReadonlySet<string>;

  constructor(
    private readonly files: ResolutionFiles,
    { kind = 'import', conditions = [] }: ResolutionOptions,
  ) {
    this.#kind = kind;
    // `module` is a usual condition for ES modules, which packages had before `exports`.
    this.#conditions = new Set([kind, 'browser', ...(kind === 'import' ? ['module'] : []), ...conditions]);
  }

  /** @param isReplaced true for a replacement by `browser`, which is not replaced again: maps may be circular */
  resolve(specifier: string, from: string, isReplaced = false): string | false | undefined {
    if (/^[a-z][a-z0-9+.-]*:/i.test(specifier)) return undefined;
    const folder = posix.dirname(from);
    if (specifier.startsWith('/')) return this.#inBrowser(this.#fileAt(specifier.slice(1)));
    if (/^\.{1,2}(\/|$)/.test(specifier)) {
      const path = posix.join(folder, this.#kind === 'require' ? specifier : decoded(specifier));
      return this.#inBrowser(this.#fileAt(path), path);
    }
    const own = foldersAbove(folder).find((one) => this.files.exists(posix.join(one, 'package.json')));
    const manifest = own === undefined ? undefined : this.#manifest(own);
    if (specifier.startsWith('#')) return own === undefined ? undefined : this.#inPackage(own, specifier);
    const replacement = own === undefined || isReplaced ? undefined : replacementOf(manifest, specifier);
    if (replacement === false) return false;
    if (replacement !== undefined && replacement !== specifier)
      return this.resolve(replacement, posix.join(own!, 'package.json'), true);
    const name = /^(@[^/]+\/)?[^/]+/.exec(specifier)?.[0] ?? specifier;
    const subpath = `.${specifier.slice(name.length)}`;
    if (manifest?.name === name && 'exports' in manifest) return this.#inPackage(own!, subpath);
    // `require` goes on to the copies in folders above (`LOAD_NODE_MODULES`).
    const roots = packageFolders(name, folder, (path) => this.files.exists(path));
    for (const root of this.#kind === 'require' ? roots : roots.slice(0, 1)) {
      const found = this.#inPackage(root, subpath);
      if (found !== undefined || hasExports(this.#manifest(root))) return found;
    }
    return roots.length > 0 ? undefined : this.#inPlainFolder(name, subpath, folder);
  }

  /** Resolves a subpath of a folder in `node_modules` without a package.json, as `require` and other programs do. */
  #inPlainFolder(name: string, subpath: string, from: string): string | undefined {
    for (const one of foldersAbove(from)) {
      const path = posix.join(one, 'node_modules', name, subpath);
      const found = subpath === '.' ? indexIn(path, this.#kind, this.files) : this.#fileAt(path);
      if (found !== undefined) return found;
    }
    return undefined;
  }

  /** Resolves a subpath of a package (`PACKAGE_EXPORTS_RESOLVE`, `PACKAGE_IMPORTS_RESOLVE`). */
  #inPackage(root: string, subpath: string): string | false | undefined {
    const manifest = this.#manifest(root);
    if (!manifest) return undefined;
    const isOwnName = subpath.startsWith('#');
    if (isOwnName || hasExports(manifest)) {
      const target = isOwnName
        ? importsTarget(manifest.imports, subpath, this.#conditions)
        : exportsTarget(manifest.exports, subpath, this.#conditions);
      if (typeof target !== 'string') return undefined;
      if (!target.startsWith('./')) return this.resolve(target, posix.join(root, 'package.json'));
      const path = posix.join(root, target);
      return this.files.exists(path) ? this.#inBrowser(path) : undefined;
    }
    if (subpath !== '.') return this.#inBrowser(this.#fileAt(posix.join(root, subpath)), posix.join(root, subpath));
    return this.#inBrowser(this.#mainFile(root, manifest) ?? indexIn(root, this.#kind, this.files));
  }

  /** A file by its path, without its extension, or of a folder (`LOAD_AS_FILE`, `LOAD_AS_DIRECTORY`). */
  #fileAt(path: string): string | undefined {
    const folder = path.replace(/\/$/, '');
    const file = folder === path ? fileNamed(path, this.#kind, this.files) : undefined;
    if (file !== undefined) return file;
    const manifest = this.files.exists(posix.join(folder, 'package.json')) ? this.#manifest(folder) : undefined;
    return (manifest && this.#mainFile(folder, manifest)) ?? indexIn(folder, this.#kind, this.files);
  }

  /** The main file that a package.json names, if it exists. */
  #mainFile(folder: string, manifest: Manifest): string | undefined {
    // As a map, `browser` does not name the entry point.
    const fields = manifest as unknown as Readonly<Record<string, unknown>>;
    const main = mainFields[this.#kind]
      .map((one) => fields[one])
      .find((one) => typeof one === 'string' && (this.#kind !== 'style' || becomesSheet(one))) as string | undefined;
    if (main === undefined) return undefined;
    const path = posix.join(folder, main);
    const own = path.replace(/\/$/, '');
    return (own === path ? fileNamed(path, this.#kind, this.files) : undefined) ?? indexIn(own, this.#kind, this.files);
  }

  /** The file that a package uses in browsers instead of another one (`browser` of package.json). */
  #inBrowser(path: string | undefined, requested = path): string | false | undefined {
    if (requested === undefined) return undefined;
    const root = foldersAbove(posix.dirname(requested)).find((one) =>
      this.files.exists(posix.join(one, 'package.json')),
    );
    const manifest = root === undefined ? undefined : this.#manifest(root);
    if (typeof manifest?.browser !== 'object') return path;
    const replacement = replacementOf(manifest, `./${posix.relative(root!, path ?? requested)}`);
    return typeof replacement === 'string' ? this.#fileAt(posix.join(root!, replacement)) : (replacement ?? path);
  }

  #manifest(root: string): Manifest | undefined {
    const file = posix.join(root, 'package.json');
    const bytes = this.files.read(file);
    return bytes && parseManifest(bytes, file);
  }
}

/** The replacement of a file or package in browsers; files are named with or without their extensions. */
function replacementOf(manifest: Manifest | undefined, name: string): string | false | undefined {
  const { browser } = manifest ?? {};
  if (typeof browser !== 'object') return undefined;
  return browser[name] ?? (name.startsWith('./') ? browser[name.replace(/(\/index)?\.\w+$/, '')] : undefined);
}

/** The path of a relative URL, which may be percent-encoded. */
function decoded(specifier: string): string {
  try {
    return decodeURIComponent(specifier);
  } catch {
    return specifier;
  }
}

/** Manifests by their bytes: most of them are asked for many times. */
const parsedManifests = new WeakMap<Uint8Array, Manifest>();

function parseManifest(bytes: Uint8Array, file: string): Manifest {
  const known = parsedManifests.get(bytes);
  if (known) return known;
  const text = decodeText(bytes, file);
  try {
    const manifest = (JSON.parse(text) as Manifest | null) ?? { name: '' };
    parsedManifests.set(bytes, manifest);
    return manifest;
  } catch (error) {
    const { offset } = jsonErrorOf(text, error);
    return fail('file-unreadable', { reason: 'it is not valid JSON' }, { file, text, offsets: [offset, offset + 1] });
  }
}

/** The extensions that may be omitted: in packages those that CommonJS allows, also in what they write as ES modules. */
function endingsFor(path: string, kind: RequestKind): readonly string[] {
  if (kind === 'style') return sheetEndings;
  if (isInstalled(path)) return kind === 'require' ? commonJsEndings : packageEndings;
  return ownEndings;
}

const sheetEndings = ['css', ...extensionsWhere(({ compiledTo }) => compiledTo === 'css')];
const commonJsEndings = ['js', 'json'];
const packageEndings = ['js', 'mjs', 'cjs', 'json'];
// A source comes before its compiled file.
const ownEndings = [
  ...extensionsWhere(({ kind, compiledTo }) => kind === 'script' && compiledTo === 'js'),
  ...packageEndings,
];

/** Reports whether a file is a style sheet, or compiled to one. */
const becomesSheet = (path: string): boolean => sheetEndings.includes(extensionOf(path));

const hasExports = (manifest: Manifest | undefined): boolean =>
  manifest?.exports !== undefined && manifest.exports !== null;

const isInstalled = (path: string): boolean => `/${path}`.includes('/node_modules/');

/**
 * A file by its path, or without its extension; sources of the project also by the name of the file that they compile to
 * (`./lens.js` or `./lens` for lens.ts).
 */
function fileNamed(path: string, kind: RequestKind, files: ResolutionFiles): string | undefined {
  const named = [path, ...(isInstalled(path) ? [] : sourcesOf(path))];
  // A URL names the whole file.
  if (kind === 'style') return named.find((one) => files.exists(one));
  return [...named, ...endingsFor(path, kind).map((ending) => `${path}.${ending}`)].find((one) => files.exists(one));
}

/** The index of a folder (`LOAD_INDEX`). */
function indexIn(folder: string, kind: RequestKind, files: ResolutionFiles): string | undefined {
  return endingsFor(`${folder}/`, kind)
    .filter((ending) => !/^[mc]js$/.test(ending))
    .map((ending) => posix.join(folder, `index.${ending}`))
    .find((one) => files.exists(one));
}

/** The sources that compile to a file. */
function sourcesOf(path: string): string[] {
  const extension = extensionOf(path);
  return extension === ''
    ? []
    : extensionsWhere(({ kind, compiledTo }) => kind === 'script' && compiledTo === extension).map((source) =>
        withExtension(path, source),
      );
}
