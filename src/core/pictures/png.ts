import { crc32 } from 'node:zlib';
import { shortenedExif } from './exif.js';
import { PictureError } from './picture-error.js';

/** The signature of PNG files (PNG, section 5.2). */
export const pngSignature = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a);

/** The chunks that browsers need for showing a picture (PNG, section 11; third edition for animations and HDR). */
const shown: ReadonlySet<string> = new Set([
  ...['IHDR', 'PLTE', 'IDAT', 'IEND', 'tRNS', 'acTL', 'fcTL', 'fdAT'],
  ...['gAMA', 'cHRM', 'sRGB', 'iCCP', 'cICP', 'mDCV', 'cLLI'],
]);

interface Chunk {
  readonly type: string;
  readonly data: Uint8Array;
}

/**
 * Reports whether a PNG file is animated.
 *
 * @throws PictureError if it is damaged
 */
export const isAnimatedPng = (png: Uint8Array): boolean => [...chunksOf(png)].some(({ type }) => type === 'acTL');

/** Recompresses the pixels of a PNG file. */
export type PngCodec = (png: Uint8Array) => Uint8Array;

/**
 * Makes a PNG file smaller: without chunks that change nothing, and with its pixels compressed again.
 *
 * @throws PictureError if it is damaged
 */
export function recompressPng(png: Uint8Array, codec: PngCodec): Uint8Array {
  const chunks = [...chunksOf(png)];
  const kept = chunks.flatMap((chunk) => {
    if (chunk.type !== 'eXIf') return shown.has(chunk.type) ? [chunk] : [];
    const data = shortenedExif(chunk.data);
    return data ? [{ type: 'eXIf', data }] : [];
  });
  const short = joined(kept);
  // The frames of an animation belong together.
  if (chunks.some(({ type }) => type === 'acTL')) return short;
  const packed = codec(short);
  return packed.length < short.length ? packed : short;
}

function* chunksOf(png: Uint8Array): Generator<Chunk> {
  const view = new DataView(png.buffer, png.byteOffset, png.byteLength);
  for (let at = pngSignature.length; ;) {
    if (at + 12 > png.length) throw new PictureError('it ends too early');
    const length = view.getUint32(at);
    const end = at + 12 + length;
    if (end > png.length) throw new PictureError('it ends too early');
    const type = String.fromCharCode(...png.subarray(at + 4, at + 8));
    if (crc32(png.subarray(at + 4, end - 4)) !== view.getUint32(end - 4))
      throw new PictureError(`the checksum of its chunk ${type} is wrong`);
    yield { type, data: png.subarray(at + 8, end - 4) };
    if (type === 'IEND') return;
    at = end;
  }
}

function joined(chunks: readonly Chunk[]): Uint8Array {
  const parts = chunks.flatMap(({ type, data }) => {
    const head = Buffer.alloc(8);
    head.writeUInt32BE(data.length);
    head.write(type, 4, 'latin1');
    const sum = Buffer.alloc(4);
    sum.writeUInt32BE(crc32(data, crc32(head.subarray(4))));
    return [head, data, sum];
  });
  return Buffer.concat([pngSignature, ...parts]);
}
