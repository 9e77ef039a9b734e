import { readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { fail, type Diagnostic, type Place } from '../diagnostics/index.js';
import { listFiles } from '../files/globs.js';
import { reasonOf } from '../files/reason.js';
import { placeIn, type Asset } from '../assets/asset.js';
import type { Shared, StepContext, StepSettings } from '../assets/context.js';
import type { RunResources } from './resources.js';

/** What a job looked at beside its input assets. */
export interface Reads {
  /** Files read, and files looked for that were not there. */
  readonly files: ReadonlySet<string>;
  readonly globs: ReadonlySet<string>;
}

/** The step context of one job: notes everything that the job looks at. */
export class JobContext implements StepContext {
  readonly diagnostics: Diagnostic[] = [];
  /** Whether some diagnostic would point further with source maps. */
  vague = false;
  readonly #files = new Set<string>();
  readonly #globs = new Set<string>();

  constructor(
    readonly root: string,
    readonly settings: StepSettings,
    readonly signal: AbortSignal,
    private readonly resources: RunResources,
  ) {}

  /** What was looked at so far. */
  get reads(): Reads {
    return { files: this.#files, globs: this.#globs };
  }

  read(path: string): Uint8Array | undefined {
    this.#files.add(path);
    try {
      return readFileSync(join(this.root, path));
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      if (code === 'ENOENT' || code === 'ENOTDIR' || code === 'EISDIR') return undefined;
      return fail('file-unreadable', { reason: reasonOf(error) }, { file: path });
    }
  }

  exists(path: string): boolean {
    this.#files.add(path);
    return statSync(join(this.root, path), { throwIfNoEntry: false })?.isFile() ?? false;
  }

  list(glob: string): readonly string[] {
    this.#globs.add(glob);
    return listFiles(this.root, glob);
  }

  report(diagnostic: Diagnostic): void {
    this.diagnostics.push(diagnostic);
  }

  place(asset: Asset, text: string, start: number, end: number): Place {
    const { place, exact } = placeIn(asset, text, start, end);
    if (!exact) this.vague = true;
    return place;
  }

  shared<T extends Shared>(name: string, make: () => Promise<T>): Promise<T> {
    return this.resources.get(name, make);
  }
}
