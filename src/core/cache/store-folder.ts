import type { Profile } from '../config/profile.js';
import { existsSync } from 'node:fs';
import { join, sep } from 'node:path';
import { toolVersions } from '../assets/package-versions.js';
import { fail } from '../diagnostics/index.js';
import { contentHash } from '../files/hash.js';
import { reasonOf } from '../files/reason.js';
import { isLink } from '../files/regular-file.js';
import { recordFolder } from '../outputs/record.js';

/**
 * The folder of the cache: results, traces, and the state of builds. It is inside `node_modules` if that exists, so
 * that a clean installation also clears it.
 *
 * @param root the project folder
 * @throws DiagnosticError if the tool's own folder is a symbolic link
 */
export function storeFolder(root: string): string {
  const packages = join('node_modules', '.cache', 'loyal-anvil');
  if (existsSync(join(root, 'node_modules')) && !hasLink(root, packages)) return join(root, packages);
  const own = join(recordFolder, 'store');
  if (hasLink(root, own)) fail('record-unreadable', { reason: reasonOf({ code: 'ELOOP' }) }, { file: recordFolder });
  return join(root, own);
}

/** Reports whether a part of a path is a symbolic link: one from a checkout may lead anywhere. */
function hasLink(root: string, path: string): boolean {
  return path.split(sep).some((_, index, parts) => isLink(join(root, ...parts.slice(0, index + 1))));
}

/**
 * The path of a cache file for one project file and profile.
 *
 * @param folder the folder of the store
 * @param what the type of cache file
 */
export function cachePath(
  folder: string,
  what: 'plan' | 'build' | 'look' | 'history',
  file: string,
  profile = '',
): string {
  return join(folder, `${what}-${encodeURIComponent(file)}${profile && `-${encodeURIComponent(profile)}`}.json`);
}

/** A hash of the inputs of a plan other than files: the text of the project file, and the versions of the tools. */
export function configHash(text: string): string {
  return contentHash(JSON.stringify([text, Object.entries(toolVersions()).sort()]));
}

/** A hash of the inputs of a plan with the values of the environment variables that its constants have. */
export function hashWithVariables(configHash: string, profiles: Iterable<Pick<Profile, 'variables'>>): string {
  const names = new Set([...profiles].flatMap(({ variables }) => Object.values(variables).map(({ env }) => env)));
  if (names.size === 0) return configHash;
  return contentHash(JSON.stringify([configHash, [...names].sort().map((name) => [name, process.env[name] ?? null])]));
}
