import { createRequire, register } from 'node:module';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { contentHash } from '../files/hash.js';

const { cache } = createRequire(import.meta.url);

/** The contents of files when they were first evaluated, as hashes by path. */
const evaluated = new Map<string, string>();

/** Thrown if a file has changed that Node.js only loads once: a CommonJS module, or a package. */
export class LoadedOnceError extends Error {}

let hasHooks = false;

/**
 * Imports a module of a project, with the other modules of the project that it imports in the same version.
 *
 * @param path relative to the project
 * @param contents the hashes of these modules, and of the package.json files of packages, by path
 * @throws LoadedOnceError
 */
export async function importProjectModule(
  root: string,
  path: string,
  contents: ReadonlyMap<string, string>,
): Promise<object> {
  checkEvaluated(root, contents);
  const version = contentHash(JSON.stringify([...contents]));
  if (!hasHooks) register(new URL('module-hooks.js', import.meta.url));
  hasHooks = true;
  return (await import(`${pathToFileURL(join(root, path)).href}?anvil-version=${version}`)) as object;
}

/**
 * Loads an installed package as Node.js finds it from a file of a project.
 *
 * @param from relative to the project
 * @param contents the hash of its package.json, by path
 * @returns its `module.exports` or default export, or its namespace without one
 * @throws LoadedOnceError
 */
export async function importPackage(
  root: string,
  name: string,
  from: string,
  contents: ReadonlyMap<string, string>,
): Promise<unknown> {
  checkEvaluated(root, contents);
  const path = createRequire(join(root, from)).resolve(name);
  const loaded = (await import(pathToFileURL(path).href)) as { readonly default?: unknown };
  return loaded.default ?? loaded;
}

/**
 * The file that an installed package is loaded from, absolute; undefined if it has none.
 *
 * @param from relative to the project
 */
export function packageEntry(root: string, name: string, from: string): string | undefined {
  try {
    return createRequire(join(root, from)).resolve(name);
  } catch {
    return undefined;
  }
}

/** Notes what is evaluated now; throws if another version of it has been. */
function checkEvaluated(root: string, contents: ReadonlyMap<string, string>): void {
  for (const [file, hash] of contents) {
    const known = evaluated.get(`${root} ${file}`) ?? hash;
    if (known !== hash && (file.includes('node_modules/') || cache[join(root, file)]))
      throw new LoadedOnceError(`${file} has changed, and is only loaded once. Start the program again`);
    evaluated.set(`${root} ${file}`, hash);
  }
}

/** The place in a file of the project at which an error was thrown; undefined if it was elsewhere. */
export function errorPlace(error: unknown, root: string): { file: string; line: number; column: number } | undefined {
  if (!(error instanceof Error)) return undefined;
  const base = pathToFileURL(`${root}/`).href;
  for (const line of (error.stack ?? '').split('\n')) {
    // e.g. at default (file:///fernlight/tools/credits.mjs?anvil-version=x:3:9); syntax errors have it first
    const [, url = '', row, column] = /(file:\/\/[^\s)]+?)(?:\?[^\s:)]*)?:(\d+)(?::(\d+))?\)?$/.exec(line) ?? [];
    if (!url.startsWith(base) || url.includes('/node_modules/')) continue;
    return { file: decodeURIComponent(url.slice(base.length)), line: Number(row), column: Number(column ?? 1) };
  }
  return undefined;
}
