import { readdirSync, readlinkSync, realpathSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { Boundary } from './boundary.js';
import { reasonOf } from './reason.js';
import { isTempFile } from './temp-file.js';

/** The contents of a folder. */
export interface Folder {
  readonly files: readonly string[];
  readonly folders: readonly string[];
  /** The files among them that are symbolic links. */
  readonly links: readonly string[];
  /** Equal for equal names of equal kinds and links to equal places. */
  readonly digest: string;
  /** The reason why it cannot be read, as part of a sentence. */
  readonly problem?: string;
}

const absent: Folder = { files: [], folders: [], links: [], digest: 'none' };

/** The folders of a project; each is read once and valid until `refresh`. */
export class FolderTree {
  readonly #read = new Map<string, Folder>();
  /** Changes when other names are in some folder, or another folder was read. */
  scope = 0;

  /**
   * @param root the folder that all paths are relative to
   * @param boundary the files that may be read
   */
  constructor(
    readonly root: string,
    private readonly boundary = new Boundary(root),
  ) {}

  /** The contents of a folder; empty when there is no folder. */
  folder(path: string): Folder {
    const known = this.#read.get(path);
    if (known) return known;
    const folder = this.#readFolder(path);
    this.#read.set(path, folder);
    this.scope++;
    return folder;
  }

  /**
   * Lists all files below a folder, following symbolic links, in no particular order.
   *
   * @param base relative to the root, `.` for the root itself
   * @param enters reports whether to search folders of this name
   * @param depth the maximum depth; 1 means the base itself
   */
  *files(base: string, enters: (name: string) => boolean, depth = Infinity): Generator<string> {
    const { files, folders } = this.folder(base);
    const prefix = base === '.' ? '' : `${base}/`;
    for (const name of files) yield prefix + name;
    if (depth <= 1) return;
    for (const name of folders) {
      const path = prefix + name;
      if (enters(name) && !this.#leadsUp(path)) yield* this.files(path, enters, depth - 1);
    }
  }

  /** Every folder that was read, with its digest. */
  digests(): Record<string, string> {
    return Object.fromEntries([...this.#read].map(([path, { digest }]) => [path, digest]));
  }

  /** Reports whether folders have the digests of an earlier run; stops at the first difference. */
  matches(digests: Readonly<Record<string, string>>): boolean {
    return Object.entries(digests).every(([path, digest]) => this.folder(path).digest === digest);
  }

  /** Reports whether a folder has been read. */
  knows(path: string): boolean {
    return this.#read.has(path);
  }

  /**
   * Reads a folder again.
   *
   * @returns whether other names are in it now
   */
  refresh(path: string): boolean {
    const before = this.#read.get(path);
    if (!before) return false;
    const now = this.#readFolder(path);
    if (now.digest === before.digest) return false;
    this.#read.set(path, now);
    this.scope++;
    return true;
  }

  /** The folders that cannot be read, with the reasons. */
  problems(): ReadonlyMap<string, string> {
    const found = new Map<string, string>();
    for (const [path, { problem }] of this.#read) if (problem !== undefined) found.set(path, problem);
    return found;
  }

  /** Every folder that was read. */
  folders(): string[] {
    return [...this.#read.keys()];
  }

  #readFolder(path: string): Folder {
    if (!this.boundary.allowsReading(path)) return unreadable('it lies outside the project');
    return readFolder(join(this.root, path));
  }

  /** Reports whether a folder is a link to one of its ancestors, so that following it would never end. */
  #leadsUp(path: string): boolean {
    const full = join(this.root, path);
    try {
      if (readlinkSafe(full) === undefined) return false;
      const target = realpathSync(full);
      const here = realpathSync(join(full, '..'));
      return here === target || here.startsWith(`${target}/`);
    } catch {
      return true;
    }
  }
}

/** Errors of the system that mean that there is no folder. */
const absence = new Set(['ENOENT', 'ENOTDIR']);

function readFolder(full: string): Folder {
  const files: string[] = [];
  const folders: string[] = [];
  const links: string[] = [];
  const parts: string[] = [];
  let entries;
  try {
    entries = readdirSync(full, { withFileTypes: true });
  } catch (error) {
    return absence.has((error as NodeJS.ErrnoException).code ?? '') ? absent : unreadable(reasonOf(error));
  }
  for (const entry of entries) {
    const { name } = entry;
    if (isTempFile(name)) continue;
    const link = entry.isSymbolicLink() ? (readlinkSafe(join(full, name)) ?? '') : undefined;
    const kind = link === undefined ? entry : statOf(join(full, name));
    if (kind?.isFile() && link !== undefined) links.push(name);
    if (kind?.isFile()) files.push(name);
    else if (kind?.isDirectory()) folders.push(name);
    else if (link === undefined) continue;
    const sign = kind?.isFile() ? '' : kind?.isDirectory() ? '/' : '?';
    parts.push(link === undefined ? name + sign : `${name}${sign} ${link}`);
  }
  return { files, folders, links, digest: parts.sort().join('\0') };
}

function unreadable(problem: string): Folder {
  return { ...absent, digest: `unreadable: ${problem}`, problem };
}

function readlinkSafe(path: string): string | undefined {
  try {
    return readlinkSync(path);
  } catch {
    return undefined;
  }
}

function statOf(path: string): ReturnType<typeof statSync> {
  try {
    return statSync(path, { throwIfNoEntry: false });
  } catch {
    return undefined;
  }
}
