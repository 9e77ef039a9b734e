import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
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
