import { promisify } from 'node:util';
import { brotliCompress, constants, gzip } from 'node:zlib';
import type { Contents } from '../cache/contents.js';
import type { Store } from '../cache/store.js';
import { contentHash } from '../files/hash.js';
import { formatOf } from '../languages/formats.js';
import type { Encoding } from '../config/settings.js';
import type { OutputFile } from './memo.js';

/** The size in bytes from which on files are compressed: smaller ones hardly become smaller. */
const smallest = 1000;

/** The extension of a file in each encoding. */
export const encodingExtensions: Readonly<Record<Encoding, string>> = { gzip: 'gz', br: 'br' };

const gzipped = promisify(gzip);
const brotli = promisify(brotliCompress);

/** The position of the operating system in the header of a gzip file, and its value for an unknown one (RFC 1952, section 2.3). */
const systemAt = 9;
const unknownSystem = 255;

/** The versions of the libraries, on which the compressed bytes depend. */
const versions = [process.versions.zlib, process.versions['brotli']];

/** Compresses outputs for servers that send them as they are; on threads of Node.js, and once per content. */
export class CompressedFiles {
  constructor(
    private readonly contents: Contents,
    private readonly store: () => Promise<Store | undefined>,
  ) {}

  /**
   * The compressed files beside an output; none if it is small, or compressed by itself.
   *
   * @param bytesOf reads the output; undefined if its bytes are no longer available
   * @returns undefined if the bytes are needed, and not available
   */
  async of(
    output: OutputFile,
    encodings: readonly Encoding[],
    bytesOf: () => Uint8Array | undefined,
  ): Promise<OutputFile[] | undefined> {
    if (encodings.length === 0 || output.bytes < smallest || formatOf(output.path)?.isCompressed) return [];
    const files: OutputFile[] = [];
    let bytes: Uint8Array | undefined;
    for (const encoding of encodings) {
      const key = contentHash(JSON.stringify(['compress', encoding, versions, output.hash]));
      const store = await this.store();
      let [made] = store?.traces(key)[0]?.assets ?? [];
      if (!made || !this.contents.holds(made.hash)) {
        bytes ??= bytesOf();
        if (!bytes) return undefined;
        made = this.contents.add({
          id: encoding,
          path: output.path,
          bytes: await compressed(bytes, encoding),
          origins: [],
          isPristine: false,
        });
        store?.addTrace(key, { reads: [], assets: [made], diagnostics: [], needsSourceMap: false });
      }
      const size = this.contents.get(made.hash)!.length;
      if (size >= output.bytes) continue;
      const path = `${output.path}.${encodingExtensions[encoding]}`;
      files.push({ path, hash: made.hash, bytes: size, gzipBytes: size, origins: output.origins, encoding });
    }
    return files;
  }
}

/** Compresses bytes at the best level; the result is the same on all systems. */
async function compressed(bytes: Uint8Array, encoding: Encoding): Promise<Uint8Array> {
  if (encoding === 'gzip') {
    const result = await gzipped(bytes, { level: constants.Z_BEST_COMPRESSION });
    result[systemAt] = unknownSystem;
    return result;
  }
  const params = {
    [constants.BROTLI_PARAM_QUALITY]: constants.BROTLI_MAX_QUALITY,
    [constants.BROTLI_PARAM_SIZE_HINT]: bytes.length,
  };
  return brotli(bytes, { params });
}
