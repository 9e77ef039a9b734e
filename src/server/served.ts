import { createHash } from 'node:crypto';
import { posix } from 'node:path';
import { urlOf } from './lookup.js';

/** The number of changes that are recorded for disconnected pages. */
const remembered = 1000;

/** Access to the outputs of a project. */
export interface OutputSource {
  /** The paths of all outputs, relative to the project. */
  readonly outputs: Iterable<string>;
  hashOf(output: string): string | undefined;
}

/**
 * The outputs in the served folder by content hash. The state identifies all of them together, so that a page that
 * reconnects, even to another run of the server, receives the changes that it missed, if any.
 */
export class ServedFiles {
  readonly #hashes = new Map<string, string>();
  readonly #steps: { readonly before: string; readonly urls: readonly string[] }[] = [];
  /** The bitwise exclusive or of a term for each file, so that an update costs only as much as its changes. */
  #sum = 0n;

  constructor(
    private readonly folder: string,
    source: OutputSource,
  ) {
    for (const output of source.outputs) this.#set(output, source.hashOf(output));
  }

  /** Identifies the content of all files. */
  get state(): string {
    return this.#sum.toString(16).padStart(16, '0');
  }

  /**
   * Updates outputs that were written or removed.
   *
   * @returns the URLs of those whose content has changed, in order
   */
  take(outputs: Iterable<string>, source: OutputSource): string[] {
    const before = this.state;
    const urls = [...outputs].flatMap((output) => this.#set(output, source.hashOf(output)) ?? []).sort();
    if (urls.length > 0) this.#steps.push({ before, urls });
    if (this.#steps.length > remembered) this.#steps.shift();
    return urls;
  }

  /** The URLs of changes since a state; undefined if that state is not recorded. */
  since(state: string): string[] | undefined {
    if (state === this.state) return [];
    const from = this.#steps.findLastIndex((step) => step.before === state);
    return from < 0 ? undefined : [...new Set(this.#steps.slice(from).flatMap((step) => step.urls))].sort();
  }

  /** Records the content of an output; returns its URL if the content of a served file has changed. */
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

/** The term of one file in the state: 64 bits. */
function share(url: string, hash: string): bigint {
  return createHash('sha256').update(`${url}\0${hash}`).digest().readBigUInt64BE();
}
