import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { toolVersions } from '../assets/tools.js';
import { contentHash } from '../files/hash.js';
import { recordFolder } from '../files/record.js';

/**
 * The folder for what can be made again: results and traces, and what the last builds found. Where packages are
 * installed it goes with them, so that a clean installation also clears it.
 *
 * @param root the project folder
 */
export function storeFolder(root: string): string {
  const packages = join(root, 'node_modules');
  return existsSync(packages) ? join(packages, '.cache', 'loyal-anvil') : join(root, recordFolder, 'store');
}

/**
 * Makes the folder of the store, out of sight of version control.
 *
 * @throws the system's error when it cannot be made
 */
export function makeStoreFolder(folder: string): void {
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, '.gitignore'), '*\n');
}

/**
 * Where something about one project file and profile is kept.
 *
 * @param folder the folder of the store
 * @param what what it is
 */
export function keptPath(folder: string, what: 'plan' | 'build' | 'look', file: string, profile = ''): string {
  return join(folder, `${what}-${encodeURIComponent(file)}${profile && `-${encodeURIComponent(profile)}`}.json`);
}

/** A hash of what a plan is made of beside files: the text of the project file, and the versions of the tools. */
export function groundOf(text: string): string {
  return contentHash(JSON.stringify([text, Object.entries(toolVersions()).sort()]));
}
