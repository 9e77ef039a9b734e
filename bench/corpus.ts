import { existsSync, readFileSync, realpathSync } from 'node:fs';
import { join } from 'node:path';
import { installPackages } from './packages.js';

/** A file of a public package, and the minified one that its authors publish. */
export interface CorpusFile {
  readonly package: string;
  readonly version: string;
  readonly source: string;
  readonly publishedBytes: number;
  readonly publishedGzipBytes: number;
}

interface CorpusList {
  readonly scripts: readonly CorpusFile[];
  readonly styles: readonly CorpusFile[];
  readonly sass: readonly { readonly package: string; readonly version: string; readonly entry: string }[];
}

export const clone = new URL('../../', import.meta.url).pathname;

/** Independent checks, installed beside the project on some machines. */
export const oracles = whereReally(join(clone, '../shared/oracles'));

/** The target of a link: programs there depend on the path by which they are called. */
function whereReally(path: string): string {
  return existsSync(path) ? realpathSync(path) : path;
}

const folder = join(clone, 'bench/.corpus');
const list = join(clone, '../shared/corpus/corpus.json');

/**
 * The public packages to measure on, installed into a folder of the bench; undefined if their list is not on this
 * machine.
 */
export class Corpus {
  private constructor(
    readonly scripts: readonly CorpusFile[],
    readonly styles: readonly CorpusFile[],
    readonly sass: CorpusList['sass'],
  ) {}

  static install(): Corpus {
    if (!existsSync(list)) return new Corpus([], [], []);
    const { scripts, styles, sass } = JSON.parse(readFileSync(list, 'utf8')) as CorpusList;
    const wanted = [...new Set([...scripts, ...styles, ...sass].map((one) => `${one.package}@${one.version}`))];
    installPackages(folder, wanted);
    return new Corpus(scripts, styles, sass);
  }

  /** The path of a file of a package. */
  path(file: { readonly package: string; readonly source: string }): string {
    return join(folder, 'node_modules', file.package, file.source);
  }

  read(file: CorpusFile): string {
    return readFileSync(this.path(file), 'utf8');
  }

  /** The folder that holds `node_modules`. */
  get folder(): string {
    return folder;
  }
}
