import { posix } from 'node:path';
import type { Asset } from '../../assets/asset.js';

/** The files beside entry points that a linked pipeline writes: shared code, workers, and files that others refer to. */
export class SharedFiles {
  /** Copied files. */
  readonly assets: Asset[] = [];
  readonly #taken = new Set<string>();
  readonly #paths = new Map<string, string>();

  /**
   * @param folder relative to `to`
   * @param taken paths of other files
   */
  constructor(
    private readonly folder: string,
    taken: Iterable<string>,
  ) {
    this.#taken = new Set(taken);
  }

  /** A path in the folder that is not taken yet. */
  freePath(name: string): string {
    const { name: stem, ext } = posix.parse(name);
    let path = posix.join(this.folder, name);
    for (let number = 2; this.#taken.has(path); number++)
      path = posix.join(this.folder, `${stem}-${String(number)}${ext}`);
    this.#taken.add(path);
    return path;
  }

  /** The path of a file that others refer to; it is added once. */
  pathOf(asset: Asset): string {
    const known = this.#paths.get(asset.id);
    if (known !== undefined) return known;
    const path = this.freePath(posix.basename(asset.path));
    this.#paths.set(asset.id, path);
    this.assets.push({ ...asset, path });
    return path;
  }
}
