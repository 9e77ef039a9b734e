import { createHash } from 'node:crypto';
import { posix } from 'node:path';
import { urlOf } from './lookup.js';

/** The number of changes that are remembered for pages that were disconnected. */
const remembered = 1000;

/** Access to the outputs of a project. */
export interface OutputSource {
  /** The paths of all outputs, relative to the project. */
  readonly outputs: Iterable<string>;
  hashOf(output: string): string | undefined;
}

/**
 * The outputs in the served folder by their content. The state names all of it together, so that a page that comes back,
 * even to another run of the server, receives the changes it missed, if any.
 */
export class ServedFiles {
  readonly #hashes = new Map<string, string>();
  readonly #steps: { readonly before: string; readonly urls: readonly string[] }[] = [];
  /** The sum, without carry, of what each file adds to it: so a change costs what changed, not what there is. */
  #sum = 0n;

  constructor(
    private readonly folder: string,
    source: OutputSource,
  ) {
    for (const output of source.outputs) this.#set(output, source.hashOf(output));
  }

  /** Names the content of all files. */
  get state(): string {
    return this.#sum.toString(16).padStart(16, '0');
  }

  /**
   * Takes note of outputs that were written or removed.
   *
   * @returns URLs of those whose content is another one now, in order
   */
  take(outputs: Iterable<string>, source: OutputSource): string[] {
    const before = this.state;
    const urls = [...outputs].flatMap((output) => this.#set(output, source.hashOf(output)) ?? []).sort();
    if (urls.length > 0) this.#steps.push({ before, urls });
    if (this.#steps.length > remembered) this.#steps.shift();
    return urls;
  }

  /** URLs of what changed since a state; undefined if it is not remembered. */
  since(state: string): string[] | undefined {
    if (state === this.state) return [];
    const from = this.#steps.findLastIndex((step) => step.before === state);
    return from < 0 ? undefined : [...new Set(this.#steps.slice(from).flatMap((step) => step.urls))].sort();
  }

  /** Notes the content of an output; returns its URL if that is a change of something that is served. */
  #set(output: string, hash: string | undefined): string | undefined {
    const path = posix.relative(this.folder, output);
    if (path.startsWith('../')) return undefined;
    const url = urlOf(path);
    const known = this.#hashes.get(url);
    if (known === hash) return undefined;
    if (known !== undefined) this.#sum ^= share(url, known);
    if (hash === undefined) this.#hashes.delete(url);
    else {
      this.#sum ^= share(url, hash);
      this.#hashes.set(url, hash);
    }
    return url;
  }
}

/** The share of one file in the state: 64 bits. */
function share(url: string, hash: string): bigint {
  return createHash('sha256').update(`${url}\0${hash}`).digest().readBigUInt64BE();
}
