import type { Diagnostic, Place } from '../diagnostics/index.js';
import { placeIn, type Asset } from '../assets/asset.js';
import type { Resource, StepContext, StepEnvironment } from '../assets/context.js';
import type { Inputs } from '../build/inputs.js';
import type { RunResources } from './resources.js';
import type { Read } from '../cache/trace.js';

/** The step context of one job: notes everything that the job looks at. */
export class JobContext implements StepContext {
  readonly diagnostics: Diagnostic[] = [];
  /** Whether some diagnostic would point further with source maps. */
  needsSourceMap = false;
  /** Whether a file came or went while the job looked: what it saw together was never there together. */
  sawInconsistentFiles = false;
  readonly #reads = new Map<string, Read>();
  readonly #bytes = new Map<string, Uint8Array | undefined>();

  constructor(
    readonly settings: StepEnvironment,
    readonly signal: AbortSignal,
    private readonly inputs: Inputs,
    private readonly resources: RunResources,
  ) {}

  /** What was looked at so far, by kind and path. */
  get reads(): readonly Read[] {
    const reads = [...this.#reads.values()];
    // That a file was there is part of what it held.
    const isCovered = ([kind, path]: Read): boolean => kind === 'presence' && this.#reads.has(`file ${path}`);
    return reads.filter((read) => !isCovered(read)).sort(([a, b], [c, d]) => (a + b < c + d ? -1 : 1));
  }

  read(path: string): Uint8Array | undefined {
    // A job sees one state of each file, whatever happens to it meanwhile.
    if (this.#bytes.has(path)) return this.#bytes.get(path);
    this.#reads.set(`file ${path}`, ['file', path, this.inputs.files.state(path)]);
    const file = this.inputs.files.read(path);
    this.#reads.set(`file ${path}`, ['file', path, file?.hash ?? null]);
    this.#bytes.set(path, file?.bytes);
    const presence = this.#reads.get(`presence ${path}`);
    if (presence && presence[2] !== (file !== undefined)) this.sawInconsistentFiles = true;
    return file?.bytes;
  }

  exists(path: string): boolean {
    if (this.#bytes.has(path)) return this.#bytes.get(path) !== undefined;
    const isThere = this.inputs.files.exists(path);
    this.#reads.set(`presence ${path}`, ['presence', path, isThere]);
    return isThere;
  }

  list(glob: string): readonly string[] {
    this.#reads.set(`list ${glob}`, ['list', glob, this.inputs.listHash(glob)]);
    return this.inputs.list(glob);
  }

  report(diagnostic: Diagnostic): void {
    this.diagnostics.push(diagnostic);
  }

  place(asset: Asset, text: string, start: number, end: number): Place {
    const { place, exact } = placeIn(asset, text, start, end);
    if (!exact) this.needsSourceMap = true;
    return place;
  }

  resource<T extends Resource>(name: string, make: () => Promise<T>): Promise<T> {
    return this.resources.get(name, make);
  }
}
