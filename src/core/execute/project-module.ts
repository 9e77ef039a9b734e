import { register } from 'node:module';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';

let hasHooks = false;

/**
 * Imports a module of a project, with the other modules of the project that it imports in the same version.
 *
 * @param path absolute
 * @param version identifies the contents of these modules: another one lets them be evaluated again
 */
export async function importProjectModule(root: string, path: string, version: string): Promise<object> {
  if (!hasHooks) register(new URL('module-hooks.js', import.meta.url));
  hasHooks = true;
  return (await import(`${pathToFileURL(join(root, path)).href}?anvil-version=${version}`)) as object;
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
