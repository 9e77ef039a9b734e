import { promisify } from 'node:util';
import { gzip } from 'node:zlib';
import { formatOf } from '../languages/formats.js';
import type { OutputFile } from './memo.js';

const compress = promisify(gzip);

/** Servers do not compress files from this size on, in bytes, for each request. */
const largest = 32 << 20;

/** The number of files that are compressed concurrently; each needs additional memory. */
const atOnce = 4;

/** Computes gzip sizes of outputs in the background; only reports wait for them. */
export class GzipSizes {
  readonly #queue: (() => Promise<void>)[] = [];
  #running = 0;
  #idle: Promise<void> | undefined;
  #wake: () => void = () => undefined;

  /**
   * An output whose size is being computed.
   *
   * @param bytesOf reads the output when its turn comes; undefined if its bytes are no longer available
   */
  measure(output: Omit<OutputFile, 'gzipBytes'>, bytesOf: () => Uint8Array | undefined): OutputFile {
    if (formatOf(output.path)?.isCompressed || output.bytes >= largest) return { ...output, gzipBytes: output.bytes };
    const measured: OutputFile = { ...output, gzipBytes: undefined };
    this.#queue.push(async () => {
      const bytes = bytesOf();
      if (bytes) measured.gzipBytes = (await compress(bytes)).length;
    });
    this.#start();
    return measured;
  }

  /** Waits until all sizes are known. */
  async settled(): Promise<void> {
    if (this.#running > 0) await (this.#idle ??= new Promise((wake) => (this.#wake = wake)));
  }

  #start(): void {
    while (this.#running < atOnce && this.#queue.length > 0) {
      this.#running++;
      const work = this.#queue.shift()!;
      // Deferred, so that the build itself ends first. A size that cannot be determined remains unknown.
      setImmediate(() => void work().then(this.#next, this.#next));
    }
    if (this.#running > 0) return;
    this.#wake();
    this.#idle = undefined;
  }

  readonly #next = (): void => {
    this.#running--;
    this.#start();
  };
}
