import { posix } from 'node:path';
import { resolve as resolvePackage, legacy } from 'resolve.exports';
import { fail } from '../diagnostics/index.js';
import { decodeText } from '../files/text.js';

/** The file access that resolution needs; every lookup is recorded. */
export interface ResolutionFiles {
  read(path: string): Uint8Array | undefined;
  exists(path: string): boolean;
}

/** Conditions of `exports` and `imports`: `browser`, `import` and `default`, and the usual one for ES modules. */
const conditions = { browser: true, conditions: ['module'] } as const;

/** The fields of a package's manifest that name its entry point, in order of precedence. */
const mainFields: string[] = ['browser', 'module', 'main'];

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
export function resolveSpecifier(specifier: string, from: string, files: ResolutionFiles): string | undefined {
  if (/^[a-z][a-z0-9+.-]*:/i.test(specifier) || specifier.startsWith('/')) return undefined;
  const folder = posix.dirname(from);
  if (/^\.{1,2}(\/|$)/.test(specifier)) return fileAt(posix.join(folder, specifier), files);
  if (specifier.startsWith('#')) {
    const root = foldersAbove(folder).find((one) => files.exists(posix.join(one, 'package.json')));
    return root === undefined ? undefined : inPackage(root, specifier, files);
  }
  const name = /^(@[^/]+\/)?[^/]+/.exec(specifier)?.[0] ?? specifier;
  for (const above of foldersAbove(folder)) {
    if (posix.basename(above) === 'node_modules') continue;
    const root = posix.join(above, 'node_modules', name);
    if (files.exists(posix.join(root, 'package.json')))
      return inPackage(root, `.${specifier.slice(name.length)}`, files);
  }
  return undefined;
}

/** Resolves a subpath of a package (`PACKAGE_EXPORTS_RESOLVE`, `PACKAGE_IMPORTS_RESOLVE`). */
function inPackage(root: string, subpath: string, files: ResolutionFiles): string | undefined {
  const bytes = files.read(posix.join(root, 'package.json'));
  if (!bytes) return undefined;
  const manifest = parseManifest(bytes, posix.join(root, 'package.json'));
  try {
    const targets = resolvePackage(manifest, subpath, conditions) as readonly string[] | undefined;
    for (const target of targets ?? []) {
      if (!target.startsWith('./')) return resolveSpecifier(target, posix.join(root, 'package.json'), files);
      const path = posix.join(root, target);
      if (files.exists(path)) return path;
    }
    if (targets !== undefined) return undefined;
  } catch {
    // The package has `exports` or `imports`, and they do not define the subpath.
    return undefined;
  }
  if (subpath !== '.') return fileAt(posix.join(root, subpath), files);
  const main = legacy(manifest, { fields: mainFields, browser: false });
  return fileAt(posix.join(root, typeof main === 'string' ? main : 'index.js'), files);
}

function parseManifest(bytes: Uint8Array, file: string): Manifest {
  try {
    return JSON.parse(decodeText(bytes, file)) as Manifest;
  } catch {
    return fail('file-unreadable', { reason: 'it is not valid JSON' }, { file });
  }
}

/** A file by its path, or with the extensions that CommonJS allows to omit. */
function fileAt(path: string, files: ResolutionFiles): string | undefined {
  const candidates = [path, ...['.js', '.mjs', '.cjs', '.json'].map((end) => path + end), posix.join(path, 'index.js')];
  return candidates.find((one) => files.exists(one));
}

/** A folder and all folders above it, up to the parents of the project in which packages may be installed. */
function foldersAbove(folder: string): string[] {
  const found = [folder];
  while (found.at(-1) !== '.' && !found.at(-1)!.endsWith('..')) found.push(posix.dirname(found.at(-1)!));
  return [...found, '..', '../..'];
}
