import { createRequire } from 'node:module';
import type browserslist from 'browserslist';

/** The default target browsers. */
export const defaultBrowsers: readonly string[] = ['defaults'];

const require = createRequire(import.meta.url);

/**
 * Resolves Browserslist queries to browsers with versions, such as `safari 17.4`.
 * The data is loaded when this is first called.
 *
 * @throws Error with a sentence about the query when it is not understood
 */
export function resolveBrowsers(queries: readonly string[]): readonly string[] {
  const resolve = require('browserslist') as typeof browserslist;
  // An empty `env` and no path: files and variables outside the project file must not decide.
  return resolve([...queries], { path: false as never, ignoreUnknownVersions: false });
}

/** The reason why queries are not understood, or nothing. */
export function browsersProblem(queries: readonly string[]): string | undefined {
  try {
    return resolveBrowsers(queries).length === 0 ? 'no browser is left' : undefined;
  } catch (error) {
    return (error as Error).message.replace(/\.(\s.*)?$/s, '').replace(/^./, (letter) => letter.toLowerCase());
  }
}
