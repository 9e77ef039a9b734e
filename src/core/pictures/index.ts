import { decodeText, encodeText } from '../files/text.js';
import { recompressGif } from './gif.js';
import { recompressJpeg } from './jpeg.js';
import { PictureError } from './picture-error.js';
import { pngSignature, recompressPng, type PngCodec } from './png.js';
import { recompressSvg } from './svg.js';
import { recompressWebp } from './webp.js';

export { PictureError } from './picture-error.js';

/** The formats of pictures that can be made smaller. */
export type PictureFormat = 'PNG' | 'JPEG' | 'GIF' | 'WebP' | 'SVG';

/** The format of a picture by its first bytes; of SVG, by the name of the file. */
export function pictureFormat(path: string, bytes: Uint8Array): PictureFormat | undefined {
  const text = Buffer.from(bytes.subarray(0, 12)).toString('latin1');
  if (pngSignature.every((byte, at) => bytes[at] === byte)) return 'PNG';
  if (text.startsWith('\xff\xd8\xff')) return 'JPEG';
  if (text.startsWith('GIF87a') || text.startsWith('GIF89a')) return 'GIF';
  if (text.startsWith('RIFF') && text.endsWith('WEBP')) return 'WebP';
  return /\.svg$/i.test(path) ? 'SVG' : undefined;
}

/** How pixels are packed. */
export interface PackingMethods {
  readonly png: PngCodec;
  /** True if more ways are tried, whatever they take. */
  readonly isThorough: boolean;
}

/**
 * Makes a picture smaller without changing what it shows.
 *
 * @returns the same bytes if nothing is smaller
 * @throws PictureError if the file is damaged
 */
export function recompressPicture(format: PictureFormat, bytes: Uint8Array, methods: PackingMethods): Uint8Array {
  try {
    const made = recompressed(format, bytes, methods);
    return made.length < bytes.length ? made : bytes;
  } catch (error) {
    // Offsets beyond the end of a file that ends too early.
    if (error instanceof RangeError) throw new PictureError('it ends too early');
    throw error;
  }
}

function recompressed(format: PictureFormat, bytes: Uint8Array, { png, isThorough }: PackingMethods): Uint8Array {
  switch (format) {
    case 'PNG':
      return recompressPng(bytes, png);
    case 'JPEG':
      return recompressJpeg(bytes);
    case 'GIF':
      return recompressGif(bytes, isThorough);
    case 'WebP':
      return recompressWebp(bytes);
    case 'SVG':
      return encodeText(recompressSvg(textOfSvg(bytes)));
  }
}

function textOfSvg(bytes: Uint8Array): string {
  try {
    return decodeText(bytes, 'picture.svg');
  } catch {
    throw new PictureError('it is not UTF-8, and declares no other encoding');
  }
}
