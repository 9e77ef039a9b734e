import { existsSync, lstatSync, readFileSync, realpathSync } from 'node:fs';
import { homedir } from 'node:os';
import { dirname, join, parse, posix, relative, sep } from 'node:path';
import { isOutputPath, reservedFolderIn } from './project-path.js';

/**
 * The files that may be read and written. A project is untrusted: symbolic links in it and paths with `..` must not
 * lead a build to files outside the checkout. Readable are the project, the checkout that contains it (the nearest
 * ancestor folder with a `.git`), as in a workspace, and installed packages, wherever their links lead, if the target
 * is a package of that name. Writable is the project, except its reserved folders. Answers about folders are cached
 * until `refresh`.
 */
export class Boundary {
  readonly #project: string;
  readonly #checkout: string;
  readonly #realFolders = new Map<string, string | undefined>();
  readonly #packages = new Map<string, string | undefined>();

  /** @param root the project folder, absolute */
  constructor(private readonly root: string) {
    this.#project = realPath(root) ?? root;
    this.#checkout = checkoutOf(this.#project);
  }

  /**
   * Reports whether a path may be read. Where there is nothing, reading is allowed: it finds nothing.
   *
   * @param path of a file or folder, relative to the project, with `/`
   */
  allowsReading(path: string): boolean {
    const real = this.#realPath(path);
    return real === undefined || isInside(real, this.#checkout) || this.#isInPackage(path, real);
  }

  /**
   * Says why no output may be written to, or removed from, a path.
   *
   * @param path relative to the project, with `/`
   * @returns half a sentence, or undefined if it is allowed
   */
  reasonAgainstWriting(path: string): string | undefined {
    if (!isOutputPath(path)) return 'it is not a path inside the project that outputs can have';
    let folder = posix.dirname(path);
    let real = this.#realFolder(folder);
    while (real === undefined && folder !== '.') {
      folder = posix.dirname(folder);
      real = this.#realFolder(folder);
    }
    if (real === undefined) return 'the project folder is gone';
    if (!isInside(real, this.#project)) return 'a symbolic link on its way leads out of the project';
    const inside = real.slice(this.#project.length).split(sep).join('/');
    return reservedFolderIn(inside) === undefined ? undefined : 'a symbolic link on its way leads to a reserved folder';
  }

  /**
   * The path of a file after all symbolic links, if they stay in the checkout; otherwise, and where there is no file, the
   * path itself.
   *
   * @param path relative to the project, with `/`
   * @returns the same
   */
  realPathOf(path: string): string {
    const real = this.#realPath(path);
    if (real === undefined || !isInside(real, this.#checkout)) return path;
    return relative(this.#project, real).split(sep).join('/');
  }

  /** Forgets the targets of folders, so that changed links are followed again. */
  refresh(): void {
    this.#realFolders.clear();
    this.#packages.clear();
  }

  #realPath(path: string): string | undefined {
    const folder = this.#realFolder(posix.dirname(path));
    if (folder === undefined) return undefined;
    const name = posix.basename(path);
    if (name === '.' || name === '..') return realPath(join(this.root, path));
    const full = join(folder, name);
    try {
      return lstatSync(full).isSymbolicLink() ? realPath(full) : full;
    } catch {
      return undefined;
    }
  }

  #realFolder(folder: string): string | undefined {
    if (!this.#realFolders.has(folder)) this.#realFolders.set(folder, realPath(join(this.root, folder)));
    return this.#realFolders.get(folder);
  }

  /** Reports whether a path passes through `node_modules` and resolves to the package that it names. */
  #isInPackage(path: string, real: string): boolean {
    const [, folder, name] = /^((?:.*\/)?node_modules\/((?:@[^/]+\/)?[^/]+))(?:\/|$)/.exec(path) ?? [];
    if (folder === undefined || name === undefined) return false;
    if (!this.#packages.has(folder)) this.#packages.set(folder, packageAt(join(this.root, folder), name));
    const home = this.#packages.get(folder);
    return home !== undefined && isInside(real, home);
  }
}

/** The folder of a package, if the package there has this name. */
function packageAt(folder: string, name: string): string | undefined {
  try {
    const home = realpathSync.native(folder);
    const manifest = JSON.parse(readFileSync(join(home, 'package.json'), 'utf8')) as { name?: unknown };
    return manifest.name === name ? home : undefined;
  } catch {
    return undefined;
  }
}

/** The checkout that a project is part of; the project itself where that would be a home folder or the whole disk. */
function checkoutOf(project: string): string {
  for (let folder = project; folder !== dirname(folder); folder = dirname(folder)) {
    if (folder === homedir() || folder === parse(folder).root) break;
    if (existsSync(join(folder, '.git'))) return folder;
  }
  return project;
}

function isInside(path: string, folder: string): boolean {
  return path === folder || path.startsWith(folder.endsWith(sep) ? folder : folder + sep);
}

function realPath(path: string): string | undefined {
  try {
    return realpathSync.native(path);
  } catch {
    return undefined;
  }
}
