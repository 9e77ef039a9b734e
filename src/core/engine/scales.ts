import { promisify } from 'node:util';
import { gzip } from 'node:zlib';
import type { OutputFile } from './memo.js';

const gzipLater = promisify(gzip);

/** Files that are compressed in themselves; servers send them as they are. */
const compressed = /\.(png|jpe?g|gif|webp|avif|woff2?|mp[34]|webm|ogg|zip|gz|br|pdf)$/i;

/** Finds out what outputs weigh on their way to a browser, while everything else goes on: only reports wait for it. */
export class Scales {
  readonly #pending = new Set<Promise<void>>();

  /** An output that is being weighed. */
  weighed(output: Omit<OutputFile, 'gzipBytes'>, bytes: Uint8Array): OutputFile {
    if (compressed.test(output.path)) return { ...output, gzipBytes: bytes.length };
    const weighed: OutputFile = { ...output, gzipBytes: undefined };
    const weighing = gzipLater(bytes).then(({ length }) => {
      weighed.gzipBytes = length;
      this.#pending.delete(weighing);
    });
    this.#pending.add(weighing);
    return weighed;
  }

  /** Waits until every weight is known. */
  async settled(): Promise<void> {
    await Promise.all(this.#pending);
  }
}
