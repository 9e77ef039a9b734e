import { createRequire } from 'node:module';
import type browserslist from 'browserslist';

/** The default target browsers. */
export const defaultBrowsers: readonly string[] = ['defaults'];

const require = createRequire(import.meta.url);

/**
 * Resolves Browserslist queries to browsers with versions, such as `safari 17.4`. The data is loaded on the first call.
 *
 * @throws Error with a message about the query if it is invalid
 */
export function resolveBrowsers(queries: readonly string[]): readonly string[] {
  const resolve = require('browserslist') as typeof browserslist;
  // `env` and `path` are empty, so that files and variables outside the project file have no effect.
  return resolve([...queries], { path: false as never, ignoreUnknownVersions: false });
}

/** Finds the reason why queries are invalid; undefined if they are valid. */
export function browsersProblem(queries: readonly string[]): string | undefined {
  try {
    return resolveBrowsers(queries).length === 0 ? 'no browser is left' : undefined;
  } catch (error) {
    return (error as Error).message.replace(/\.(\s.*)?$/s, '').replace(/^./, (letter) => letter.toLowerCase());
  }
}
