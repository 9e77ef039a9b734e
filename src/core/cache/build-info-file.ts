import { readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { isAlive } from '../files/alive.js';
import { contentHash } from '../files/hash.js';
import { makeIgnoredFolder } from '../files/write-file.js';
import { storeFolder } from './store-folder.js';

/** The files that this process has chosen, by configuration file. */
const known = new Map<string, string>();

/**
 * The file in the cache folder in which the TypeScript compiler keeps its build info for the next run. Only the process that
 * created a file uses it, since its content cannot be verified; files of processes that have ended are removed.
 *
 * @param root the project folder
 * @param config the configuration file of the compiler, absolute
 * @returns undefined if the folder cannot be used
 */
export function buildInfoFile(root: string, config: string): string | undefined {
  const path = known.get(config);
  if (path !== undefined) return path;
  try {
    const folder = storeFolder(root);
    makeIgnoredFolder(folder);
    for (const name of readdirSync(folder)) {
      const [, id] = /^types-(\d+)-[\w-]+\.tsbuildinfo$/.exec(name) ?? [];
      if (id !== undefined && !isAlive(Number(id))) rmSync(join(folder, name), { force: true });
    }
    const fresh = join(folder, `types-${String(process.pid)}-${contentHash(config)}.tsbuildinfo`);
    rmSync(fresh, { force: true });
    known.set(config, fresh);
    return fresh;
  } catch {
    return undefined;
  }
}
