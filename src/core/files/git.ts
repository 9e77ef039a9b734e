import { existsSync, readFileSync, statSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';

/**
 * The lock file that Git creates while it changes a working tree, for example during a checkout (gitrepository-layout,
 * `index.lock`).
 *
 * @param folder in the working tree, absolute
 * @returns undefined outside of working trees
 */
export function gitLockFile(folder: string): string | undefined {
  for (let one = folder; ; one = dirname(one)) {
    const entry = join(one, '.git');
    if (existsSync(entry)) return join(gitFolder(entry), 'index.lock');
    if (one === dirname(one)) return undefined;
  }
}

/** The folder of a repository; a linked working tree has a file that names it. */
function gitFolder(entry: string): string {
  try {
    if (statSync(entry).isDirectory()) return entry;
    const [, named] = /^gitdir: (.+)$/m.exec(readFileSync(entry, 'utf8')) ?? [];
    return named === undefined ? entry : resolve(dirname(entry), named);
  } catch {
    return entry;
  }
}
