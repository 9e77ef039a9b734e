import { posix } from 'node:path';
import { resolve as resolvePackage, legacy } from 'resolve.exports';
import { fail } from '../diagnostics/index.js';
import { decodeText } from '../files/text.js';
import { extensionOf, extensionsWhere, withExtension } from '../languages/formats.js';

/** The file access that resolution needs; every lookup is recorded. */
export interface ResolutionFiles {
  read(path: string): Uint8Array | undefined;
  exists(path: string): boolean;
}

/** Conditions of `exports` and `imports` besides `default`, by the kind of request; `module` is the usual one for ES modules. */
const conditions = {
  import: { browser: true, conditions: ['module'] },
  require: { browser: true, require: true },
} as const;

/** The fields of a package's manifest that name its entry point, in order of precedence. */
const mainFields = { import: ['browser', 'module', 'main'], require: ['browser', 'main'] };

/** The kind of a request: of an ES module, or of `require`. */
export type RequestKind = keyof typeof conditions;

interface Manifest {
  readonly name: string;
}

/**
 * Resolves an import specifier as Node.js does for ES modules (Node.js documentation, "ESM resolution algorithm"), with
 * the conditions of browsers, and with file extensions as CommonJS packages omit them.
 *
 * @param specifier a relative URL, a package name with an optional subpath, or `#name` of the package's own `imports`
 * @param from the importing file, relative to the project
 * @returns the file, relative to the project; undefined if there is none, and for absolute URLs
 */
export function resolveSpecifier(
  specifier: string,
  from: string,
  files: ResolutionFiles,
  kind: RequestKind = 'import',
): string | undefined {
  if (/^[a-z][a-z0-9+.-]*:/i.test(specifier) || specifier.startsWith('/')) return undefined;
  const folder = posix.dirname(from);
  if (/^\.{1,2}(\/|$)/.test(specifier))
    return fileAt(posix.join(folder, kind === 'import' ? decoded(specifier) : specifier), files);
  if (specifier.startsWith('#')) {
    const root = foldersAbove(folder).find((one) => files.exists(posix.join(one, 'package.json')));
    return root === undefined ? undefined : inPackage(root, specifier, files, kind);
  }
  const name = /^(@[^/]+\/)?[^/]+/.exec(specifier)?.[0] ?? specifier;
  for (const above of foldersAbove(folder)) {
    if (posix.basename(above) === 'node_modules') continue;
    const root = posix.join(above, 'node_modules', name);
    if (files.exists(posix.join(root, 'package.json')))
      return inPackage(root, `.${specifier.slice(name.length)}`, files, kind);
  }
  return undefined;
}

/** The path of a relative URL, which may be percent-encoded. */
function decoded(specifier: string): string {
  try {
    return decodeURIComponent(specifier);
  } catch {
    return specifier;
  }
}

/** Resolves a subpath of a package (`PACKAGE_EXPORTS_RESOLVE`, `PACKAGE_IMPORTS_RESOLVE`). */
function inPackage(root: string, subpath: string, files: ResolutionFiles, kind: RequestKind): string | undefined {
  const bytes = files.read(posix.join(root, 'package.json'));
  if (!bytes) return undefined;
  const manifest = parseManifest(bytes, posix.join(root, 'package.json'));
  try {
    const targets = resolvePackage(manifest, subpath, conditions[kind]) as readonly string[] | undefined;
    for (const target of targets ?? []) {
      if (!target.startsWith('./')) return resolveSpecifier(target, posix.join(root, 'package.json'), files, kind);
      const path = posix.join(root, target);
      if (files.exists(path)) return path;
    }
    if (targets !== undefined) return undefined;
  } catch {
    // The package has `exports` or `imports`, and they do not define the subpath.
    return undefined;
  }
  if (subpath !== '.') return fileAt(posix.join(root, subpath), files);
  const main = legacy(manifest, { fields: mainFields[kind], browser: false });
  return fileAt(posix.join(root, typeof main === 'string' ? main : 'index.js'), files);
}

function parseManifest(bytes: Uint8Array, file: string): Manifest {
  try {
    return JSON.parse(decodeText(bytes, file)) as Manifest;
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

/** A folder and all folders above it, up to the parents of the project in which packages may be installed. */
function foldersAbove(folder: string): string[] {
  const found = [folder];
  while (found.at(-1) !== '.' && !found.at(-1)!.endsWith('..')) found.push(posix.dirname(found.at(-1)!));
  return [...found, '..', '../..'];
}
