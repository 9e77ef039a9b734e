import { randomBytes } from 'node:crypto';
import {
  copyFileSync,
  existsSync,
  linkSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { projectFileName } from './config/find.js';
import type { Diagnostic } from './diagnostics/index.js';
import { isAlive } from './files/alive.js';
import { Boundary } from './files/boundary.js';
import { isLink } from './files/regular-file.js';
import { makeIgnoredFolder } from './files/write-file.js';
import { Project } from './open.js';
import { recordFolder } from './outputs/record.js';

/**
 * Builds a proposed project in a temporary folder, which is removed again.
 *
 * @param root the folder of the project, absolute
 * @param files its files, relative to it
 * @param yaml the text of the project file
 * @param options.wanted outputs whose texts are wanted
 * @param options.signal ends the build
 * @returns what the build reports, and the texts of these outputs, as far as they were made
 * @throws DiagnosticError if the project file is invalid; the system's error if the folder cannot be written
 */
export async function tryProject(
  root: string,
  files: readonly string[],
  yaml: string,
  { wanted = [], signal }: { readonly wanted?: readonly string[]; readonly signal?: AbortSignal } = {},
): Promise<{ readonly diagnostics: readonly Diagnostic[]; readonly texts: ReadonlyMap<string, string> }> {
  const cache = join(root, recordFolder);
  if (isLink(cache)) throw new Error(`${recordFolder} is a symbolic link`);
  const isNew = !existsSync(cache);
  removeLeftTrials(cache);
  const folder = join(cache, `trial-${String(process.pid)}-${randomBytes(6).toString('hex')}`);
  try {
    makeIgnoredFolder(cache);
    mkdirSync(folder);
    // What lies outside of the project is not read, also through links.
    const boundary = new Boundary(root);
    for (const file of files) if (boundary.allowsReading(file)) placeFile(join(root, file), join(folder, file));
    if (existsSync(join(root, 'node_modules')))
      symlinkSync(join('..', '..', 'node_modules'), join(folder, 'node_modules'));
    writeFileSync(join(folder, projectFileName), yaml);
    const project = await Project.open({ folder });
    const { pipelines } = await project.plan();
    // Checkers say nothing of the proposal.
    const names = pipelines.filter(({ isPublished }) => isPublished).map(({ name }) => name);
    const { diagnostics } = await project.build({ pipelines: names, ...(signal && { signal }) });
    const made = wanted.filter((path) => existsSync(join(folder, path)));
    return { diagnostics, texts: new Map(made.map((path) => [path, readFileSync(join(folder, path), 'utf8')])) };
  } finally {
    rmSync(isNew ? cache : folder, { recursive: true, force: true });
  }
}

/** Removes the folders of trials whose processes were killed. */
function removeLeftTrials(cache: string): void {
  for (const name of existsSync(cache) ? readdirSync(cache) : []) {
    const [, id] = /^trial-(\d+)-[\da-f]+$/.exec(name) ?? [];
    if (id !== undefined && !isAlive(Number(id))) rmSync(join(cache, name), { recursive: true, force: true });
  }
}

/** Makes a file known under a second name, or copies it where that is impossible. */
function placeFile(from: string, to: string): void {
  mkdirSync(dirname(to), { recursive: true });
  try {
    if (isLink(from)) copyFileSync(from, to);
    else linkSync(from, to);
  } catch {
    copyFileSync(from, to);
  }
}
