import { posix } from 'node:path';
import { resolve as resolvePackage, legacy } from 'resolve.exports';
import { fail } from '../diagnostics/index.js';
import { foldersAbove, packageFolder } from '../files/package-folder.js';
import { decodeText } from '../files/text.js';
import { extensionOf, extensionsWhere, withExtension } from '../languages/formats.js';

/** The file access that resolution needs; every lookup is recorded. */
export interface ResolutionFiles {
  read(path: string): Uint8Array | undefined;
  exists(path: string): boolean;
}

/** The kind of a request: of an ES module, or of `require`. */
export type RequestKind = 'import' | 'require';

/** How a specifier is resolved. */
export interface ResolutionOptions {
  /** `require` for a specifier that a CommonJS module requires. */
  readonly kind?: RequestKind;
  /** Conditions of `exports` and `imports` besides `browser`, `default`, and `import` or `require`. */
  readonly conditions?: readonly string[];
}

/** Usual conditions for ES modules, which packages had before `exports`. */
const ofModules = ['module'];

/** The fields of a package's manifest that name its entry point, in order of precedence. */
const mainFields = { import: ['browser', 'module', 'main'], require: ['browser', 'main'] };

interface Manifest {
  readonly name: string;
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
  readonly #conditions: Parameters<typeof resolvePackage>[2];

  constructor(
    private readonly files: ResolutionFiles,
    { kind = 'import', conditions = [] }: ResolutionOptions,
  ) {
    this.#kind = kind;
    const isRequired = kind === 'require';
    this.#conditions = {
      browser: true,
      require: isRequired,
      conditions: [...conditions, ...(isRequired ? [] : ofModules)],
    };
  }

  resolve(specifier: string, from: string): string | false | undefined {
    if (/^[a-z][a-z0-9+.-]*:/i.test(specifier)) return undefined;
    const folder = posix.dirname(from);
    if (specifier.startsWith('/')) return this.#inBrowser(fileAt(specifier.slice(1), this.files));
    if (/^\.{1,2}(\/|$)/.test(specifier)) {
      const path = posix.join(folder, this.#kind === 'import' ? decoded(specifier) : specifier);
      return this.#inBrowser(fileAt(path, this.files), path);
    }
    const own = foldersAbove(folder).find((one) => this.files.exists(posix.join(one, 'package.json')));
    const manifest = own === undefined ? undefined : this.#manifest(own);
    if (specifier.startsWith('#')) return own === undefined ? undefined : this.#inPackage(own, specifier);
    const replacement = own === undefined ? undefined : replacementOf(manifest, specifier);
    if (replacement === false) return false;
    if (replacement !== undefined && replacement !== specifier)
      return this.resolve(replacement, posix.join(own!, 'package.json'));
    const name = /^(@[^/]+\/)?[^/]+/.exec(specifier)?.[0] ?? specifier;
    const subpath = `.${specifier.slice(name.length)}`;
    if (manifest?.name === name && 'exports' in manifest) return this.#inPackage(own!, subpath);
    const root = packageFolder(name, folder, (path) => this.files.exists(path));
    return root === undefined ? undefined : this.#inPackage(root, subpath);
  }

  /** Resolves a subpath of a package (`PACKAGE_EXPORTS_RESOLVE`, `PACKAGE_IMPORTS_RESOLVE`). */
  #inPackage(root: string, subpath: string): string | false | undefined {
    const manifest = this.#manifest(root);
    if (!manifest) return undefined;
    try {
      const targets = resolvePackage(manifest, subpath, this.#conditions) as readonly string[] | undefined;
      for (const target of targets ?? []) {
        if (!target.startsWith('./')) return this.resolve(target, posix.join(root, 'package.json'));
        const path = posix.join(root, target);
        if (this.files.exists(path)) return this.#inBrowser(path);
      }
      if (targets !== undefined) return undefined;
    } catch {
      // The package has `exports` or `imports`, and they do not define the subpath.
      return undefined;
    }
    if (subpath !== '.')
      return this.#inBrowser(fileAt(posix.join(root, subpath), this.files), posix.join(root, subpath));
    // As a map, `browser` does not name the entry point.
    const fields = mainFields[this.#kind].filter((one) => one !== 'browser' || typeof manifest.browser === 'string');
    const main = legacy(manifest, { fields, browser: false });
    return this.#inBrowser(fileAt(posix.join(root, typeof main === 'string' ? main : 'index.js'), this.files));
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
    return typeof replacement === 'string' ? fileAt(posix.join(root!, replacement), this.files) : (replacement ?? path);
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
  try {
    const manifest = (JSON.parse(decodeText(bytes, file)) as Manifest | null) ?? { name: '' };
    parsedManifests.set(bytes, manifest);
    return manifest;
  } catch {
    return fail('file-unreadable', { reason: 'it is not valid JSON' }, { file });
  }
}

/**
 * A file by its path, or with the extensions that CommonJS allows to omit; sources of the project also by the name of the
 * file that they compile to (`./lens.js` or `./lens` for lens.ts).
 */
function fileAt(path: string, files: ResolutionFiles): string | undefined {
  const isSource = !`/${path}`.includes('/node_modules/');
  const endings = [
    'js',
    'mjs',
    'cjs',
    'json',
    ...(isSource ? extensionsWhere(({ compiledTo }) => compiledTo === 'js') : []),
  ];
  const candidates = [
    path,
    ...(isSource ? sourcesOf(path) : []),
    ...endings.map((ending) => `${path}.${ending}`),
    ...endings.filter((ending) => !/^[mc]js|json$/.test(ending)).map((ending) => posix.join(path, `index.${ending}`)),
  ];
  return candidates.find((one) => files.exists(one));
}

/** The sources that compile to a file. */
function sourcesOf(path: string): string[] {
  const extension = extensionOf(path);
  return extension === ''
    ? []
    : extensionsWhere(({ compiledTo }) => compiledTo === extension).map((source) => withExtension(path, source));
}
