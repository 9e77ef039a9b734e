import { isBuiltin } from 'node:module';
import { posix } from 'node:path';
import type { StepContext } from '../../assets/context.js';
import { diagnostic, nearestWord, type Diagnostic, type Place } from '../../diagnostics/index.js';
import { foldersAbove, packageFolder } from '../../files/package-folder.js';
import { parseJson } from './package-facts.js';

/** Explains why an import specifier cannot be resolved, and what to do about it. */
export function unresolved(specifier: string, from: string, context: StepContext, place: Place): Diagnostic {
  if (isBuiltin(specifier)) return diagnostic('link-builtin', { specifier }, place);
  if (/^\.{0,2}\//.test(specifier)) {
    // A path from the root is one of the project.
    const path = specifier.startsWith('/') ? specifier.slice(1) : posix.join(posix.dirname(from), specifier);
    const others = context.list(`${posix.dirname(path)}/*`).map((one) => posix.basename(one));
    const wanted = posix.basename(path);
    const stem = (name: string): string => name.replace(/\.\w+$/, '');
    const near =
      others.find((one) => one.toLowerCase() === wanted.toLowerCase() || stem(one) === stem(wanted)) ??
      nearestWord(wanted, others) ??
      others.find((one) => stem(one) === nearestWord(stem(wanted), others.map(stem)));
    const folder = specifier.slice(0, specifier.lastIndexOf('/') + 1);
    return diagnostic('link-missing', { specifier, near: near === undefined ? undefined : folder + near }, place);
  }
  if (specifier.startsWith('#')) return diagnostic('link-missing', { specifier, near: undefined }, place);
  const name = /^(@[^/]+\/)?[^/]+/.exec(specifier)?.[0] ?? specifier;
  const root = packageFolder(name, posix.dirname(from), (path) => context.exists(path));
  if (root === undefined) {
    const requiredBy = peerOf(name, from, context);
    const declared = declaredPackages(from, context);
    const [isDeclared, near] = [declared.includes(name), nearestWord(name, declared)];
    return diagnostic('link-package', { specifier, name, isDeclared, near, requiredBy }, place);
  }
  const subpaths = exportedSubpaths(root, context);
  if (subpaths.length > 0) return diagnostic('link-subpath', { specifier, name, subpaths }, place);
  if (specifier === name && hasOnlyTypes(root, context)) return diagnostic('link-types', { specifier }, place);
  return diagnostic('link-missing', { specifier, near: undefined }, place);
}

/** The packages that the nearest package.json of a file, and those above it, declare to depend on. */
function declaredPackages(from: string, context: StepContext): string[] {
  const names = foldersAbove(posix.dirname(from)).flatMap((folder) => {
    const bytes = context.read(posix.join(folder, 'package.json'));
    const manifest = bytes ? parseJson<Readonly<Record<string, unknown>>>(bytes) : {};
    return ['dependencies', 'devDependencies', 'peerDependencies', 'optionalDependencies'].flatMap((field) =>
      Object.keys(manifest[field] ?? {}),
    );
  });
  return [...new Set(names)];
}

/** The subpaths that a package's `exports` define. */
function exportedSubpaths(root: string, context: StepContext): string[] {
  const bytes = context.read(posix.join(root, 'package.json'));
  const { exports } = bytes ? parseJson<{ exports?: unknown }>(bytes) : {};
  if (typeof exports !== 'object' || exports === null) return [];
  return Object.keys(exports).filter((one) => one.startsWith('.'));
}

/** The package of a file that requires another one as a peer dependency. */
function peerOf(name: string, from: string, context: StepContext): string | undefined {
  const folder = foldersAbove(posix.dirname(from)).find((one) => context.exists(posix.join(one, 'package.json')));
  const bytes = folder?.includes('node_modules/') ? context.read(posix.join(folder, 'package.json')) : undefined;
  const manifest = bytes
    ? parseJson<{ name?: unknown; peerDependencies?: Readonly<Record<string, unknown>> }>(bytes)
    : {};
  const isPeer = manifest.peerDependencies !== undefined && Object.hasOwn(manifest.peerDependencies, name);
  return isPeer && typeof manifest.name === 'string' ? manifest.name : undefined;
}

/** Reports whether a package has declarations of types, and no code to import. */
function hasOnlyTypes(root: string, context: StepContext): boolean {
  const bytes = context.read(posix.join(root, 'package.json'));
  const { types, typings, main } = bytes
    ? parseJson<Readonly<Record<'types' | 'typings' | 'main', unknown>>>(bytes)
    : {};
  return (types ?? typings) !== undefined && (main === undefined || main === '');
}
