import { posix } from 'node:path';
import type { StepContext } from '../assets/context.js';
import { fail } from '../diagnostics/index.js';
import { packageFolder } from '../files/package-folder.js';
import { contentHash } from '../files/hash.js';
import { extensionOf } from '../languages/formats.js';

/**
 * Loads a package that the project has installed, as its `module.exports` or default export.
 *
 * @param file the file that needs it
 * @throws DiagnosticError if it is not installed, or cannot be loaded
 */
export async function projectPackage<T>(name: string, file: string, context: StepContext): Promise<T> {
  const folder = packageFolder(name, posix.dirname(file), (path) => context.exists(path));
  const manifest = folder === undefined ? undefined : context.read(posix.join(folder, 'package.json'));
  if (folder === undefined || !manifest)
    return fail('package-missing', { name, kind: `.${extensionOf(file)} files` }, { file });
  const contents = new Map([[posix.join(folder, 'package.json'), contentHash(manifest)]]);
  try {
    return (await context.importPackage(name, file, contents)) as T;
  } catch (error) {
    return fail('package-broken', { name, message: (error as Error).message }, { file });
  }
}
