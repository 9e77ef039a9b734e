import { posix } from 'node:path';
import { packageFolder } from '../../files/package-folder.js';
import { exportsTarget } from '../../files/package-targets.js';
import { decodeText } from '../../files/text.js';
import type { StepContext } from '../../assets/context.js';

/** The scheme of file URLs for the compiler; the rest is a path relative to the project. */
const scheme = 'project:///';
const up = '~up~';

/**
 * The URL of a project-relative path. Parent folders of the project have a special name, since URLs cannot lead
 * upwards.
 */
export function schemeUrl(path: string): string {
  const parts = path.split('/').map((part) => (part === '..' ? up : encodeURIComponent(part)));
  return scheme + parts.join('/');
}

/** The project-relative path of such a URL. */
export function schemePath(url: string): string {
  return new URL(url).pathname
    .slice(1)
    .split('/')
    .map((part) => (part === up ? '..' : decodeURIComponent(part)))
    .join('/');
}

/**
 * Finds the files that Sass sheets load (Sass specification, modules, "resolving a file: URL"), using only the step's
 * context, so that every lookup is recorded.
 */
export class SassResolver {
  constructor(
    private readonly context: Pick<StepContext, 'exists' | 'read'>,
    private readonly loadPaths: readonly string[],
  ) {}

  /**
   * @param url as written, or already resolved against the importing sheet
   * @param fromImport true for `@import`, which may have import-only files
   * @param from the importing sheet
   * @returns the path of the file; undefined if there is none
   * @throws Error with a sentence if more than one file matches
   */
  find(url: string, fromImport: boolean, from: string | undefined): string | undefined {
    if (url.startsWith(scheme)) return this.#inFolder(schemePath(url), fromImport);
    if (url.startsWith('pkg:')) return this.#inPackage(url.slice('pkg:'.length), fromImport, from ?? '');
    if (/^[a-z][a-z0-9+.-]*:/i.test(url)) return undefined;
    const path = decodeURI(url);
    for (const folder of this.loadPaths) {
      const found = this.#inFolder(posix.join(folder, path), fromImport);
      if (found !== undefined) return found;
    }
    return undefined;
  }

  #inFolder(path: string, fromImport: boolean): string | undefined {
    if (/\.(scss|sass|css)$/i.test(path)) return this.#exact(path, fromImport);
    return this.#withExtensions(path, fromImport) ?? this.#withExtensions(posix.join(path, 'index'), fromImport);
  }

  #exact(path: string, fromImport: boolean): string | undefined {
    const imported = fromImport ? this.#one(partials(path.replace(/\.(scss|sass|css)$/i, '.import.$1'))) : undefined;
    return imported ?? this.#one(partials(path));
  }

  #withExtensions(path: string, fromImport: boolean): string | undefined {
    const imported = fromImport ? this.#withExtensions(`${path}.import`, false) : undefined;
    if (imported !== undefined) return imported;
    return this.#one([...partials(`${path}.sass`), ...partials(`${path}.scss`)]) ?? this.#one(partials(`${path}.css`));
  }

  #one(candidates: readonly string[]): string | undefined {
    const found = candidates.filter((path) => this.context.exists(path));
    if (found.length > 1) throw new Error(`It's not clear which file to load: ${found.join(' or ')}`);
    return found[0];
  }

  /** A `pkg:` URL, by the package's `exports` or its older keys (Sass specification, Node package importer). */
  #inPackage(address: string, fromImport: boolean, from: string): string | undefined {
    const [, name, inner = ''] = /^((?:@[^/]+\/)?[^/]+)(?:\/(.*))?$/.exec(address) ?? [];
    if (name === undefined) return undefined;
    const folder = packageFolder(name, posix.dirname(from), (path) => this.context.exists(path));
    if (folder === undefined) return undefined;
    const manifest = this.#manifest(folder);
    const named = this.#exported(manifest, inner);
    if (named !== undefined) return this.#inFolder(posix.join(folder, named), fromImport);
    if (inner !== '') return this.#inFolder(posix.join(folder, inner), fromImport);
    const main = [manifest.sass, manifest.style].find((one) => typeof one === 'string');
    return this.#inFolder(posix.join(folder, main ?? 'index'), fromImport);
  }

  #exported(manifest: Manifest, inner: string): string | undefined {
    if (manifest.exports === undefined) return undefined;
    const file = posix.basename(inner);
    const folder = posix.dirname(inner);
    const beside = (name: string): string => posix.join(folder, name);
    const forms =
      inner === ''
        ? ['']
        : [
            inner,
            ...['.scss', '.sass', '.css'].map((extension) => inner + extension),
            beside(`_${file}`),
            ...['.scss', '.sass'].map((extension) => beside(`_${file}${extension}`)),
          ];
    for (const form of forms) {
      const target = exportsTarget(manifest.exports, form === '' ? '.' : `./${form}`, conditions);
      if (typeof target === 'string') return target;
    }
    return undefined;
  }

  #manifest(folder: string): Manifest {
    const path = posix.join(folder, 'package.json');
    try {
      return JSON.parse(decodeText(this.context.read(path) ?? new Uint8Array(), path)) as Manifest;
    } catch {
      throw new Error(`${path} is not valid JSON`);
    }
  }
}

/** The conditions of `exports` that hold for Sass. */
const conditions = new Set(['sass', 'style']);

interface Manifest {
  readonly exports?: unknown;
  readonly sass?: unknown;
  readonly style?: unknown;
}

/** The two names of a file that may be a partial. */
function partials(path: string): string[] {
  return [posix.join(posix.dirname(path), `_${posix.basename(path)}`), path];
}
