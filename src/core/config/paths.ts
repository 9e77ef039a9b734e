import { posix } from 'node:path';
import { slowGlobReason } from '../files/glob-limits.js';
import { isPackageGlob, packageGlob, parsePackageGlob } from '../files/package-glob.js';
import { reservedFolderIn } from '../files/project-path.js';
import { profilePlaceholder } from './editions.js';
import type { SettingPath } from './document.js';
import type { Validator } from './validate.js';

/**
 * Checks a path of the project file and brings it into its shortest form: no `./`, no `/` at the end, `.` for the
 * project folder itself.
 *
 * @returns the path, or nothing after a diagnostic
 */
export function projectPath(value: string, path: SettingPath, validator: Validator): string | undefined {
  const key = keyOf(path);
  const problem = formProblem(value);
  if (problem) validator.report('path-form', { key, path: value, problem }, path);
  else {
    const normal = posix.normalize(value).replace(/(?<=.)\/$/, '');
    if (normal !== '..' && !normal.startsWith('../')) return normal;
    validator.report('path-outside', { key, path: value }, path);
  }
  return undefined;
}

/**
 * Checks a path that is written to, as `projectPath` does: it also stays out of reserved folders.
 *
 * @returns the path, or nothing after a diagnostic
 */
export function outputPath(value: string, path: SettingPath, validator: Validator): string | undefined {
  const placeholder = /\{[^}]*\}/.exec(value.replaceAll(profilePlaceholder, ''))?.[0];
  if (placeholder !== undefined)
    validator.report('path-placeholder', { key: keyOf(path), placeholder, path: value }, path);
  const normal = projectPath(value, path, validator);
  const folder = normal === undefined ? undefined : reservedFolderIn(normal);
  if (folder === undefined) return normal;
  validator.report('path-reserved', { key: keyOf(path), path: value, folder }, path);
  return undefined;
}

/** Checks a glob of the project file, with or without its `!`, as `projectPath` does; `\` escapes are left alone. */
export function projectGlob(value: string, path: SettingPath, validator: Validator): string | undefined {
  const negation = value.startsWith('!') ? '!' : '';
  const written = value.slice(negation.length);
  const ofPackage = parsePackageGlob(written);
  if (isPackageGlob(written) && !ofPackage) {
    const problem = 'is not `pkg:NAME/GLOB`, the name of an installed package and a glob of its files';
    validator.report('path-form', { key: keyOf(path), path: value, problem }, path);
    return undefined;
  }
  const glob = ofPackage?.glob ?? written;
  if (/^\/|^[A-Za-z]:[\\/]/.test(glob)) {
    validator.report('path-form', { key: keyOf(path), path: value, problem: 'is not relative' }, path);
    return undefined;
  }
  if (!checkGlobSpeed(glob, path, validator)) return undefined;
  const parts: string[] = [];
  for (const part of glob.split('/')) {
    // A backslash does not make a name of `..`.
    const name = part.replace(/\\(.)/g, '$1');
    if (name === '..' && parts.pop() === undefined) {
      validator.report('path-outside', { key: keyOf(path), path: value }, path);
      return undefined;
    }
    if (name !== '..' && name !== '.' && name !== '') parts.push(part);
  }
  const inside = parts.join('/');
  return negation + (ofPackage ? packageGlob({ ...ofPackage, glob: inside }) : inside);
}

/** Reports globs that take too long to match. */
export function checkGlobSpeed(glob: string, path: SettingPath, validator: Validator): boolean {
  const reason = slowGlobReason(glob);
  if (reason !== undefined) validator.report('glob-slow', { glob, reason }, path);
  return reason === undefined;
}

function formProblem(value: string): string | undefined {
  if (value.startsWith('/') || /^[A-Za-z]:/.test(value)) return 'is not relative';
  if (value.includes('\\')) return 'has a `\\` in it';
  if (value.includes('\0')) return 'has a NUL in it';
  return undefined;
}

function keyOf(path: SettingPath): string {
  return String(path.findLast((part) => typeof part === 'string') ?? '');
}
