import { posix } from 'node:path';
import type { StepContext } from '../assets/context.js';
import { diagnostic, fail, PassingError } from '../diagnostics/index.js';
import { packageFolder } from '../files/package-folder.js';
import { contentHash } from '../files/hash.js';
import { extensionOf } from '../languages/formats.js';

/** The package.json of an installed package. */
export interface InstalledPackage {
  readonly manifest: string;
  readonly hash: string;
}

/**
 * Finds a package that the project has installed; its package.json becomes part of the trace, as does that there is none.
 *
 * @param file the file that needs it
 */
export function installedPackage(name: string, file: string, context: StepContext): InstalledPackage | undefined {
  const folder = packageFolder(name, posix.dirname(file), (path) => context.exists(path));
  if (folder === undefined) return undefined;
  const manifest = posix.join(folder, 'package.json');
  const bytes = context.read(manifest);
  return bytes && { manifest, hash: contentHash(bytes) };
}

/**
 * Loads a package that the project has installed, as its `module.exports` or default export.
 *
 * @param file the file that needs it
 * @param purpose what it is for, in a message
 * @throws DiagnosticError if it is not installed, or cannot be loaded
 */
export async function projectPackage<T>(
  name: string,
  file: string,
  context: StepContext,
  purpose = `.${extensionOf(file)} files`,
): Promise<T> {
  const installed = installedPackage(name, file, context);
  if (!installed) return fail('package-missing', { name, kind: purpose }, { file });
  try {
    return (await context.importPackage(name, file, new Map([[installed.manifest, installed.hash]]))) as T;
  } catch (error) {
    const { message } = error as Error;
    // Another process loads it as it is then; its other files are not in the trace.
    throw new PassingError(diagnostic('package-broken', { name, message }, { file }));
  }
}
