import { shortenedExif } from './exif.js';
import { PictureError } from './picture-error.js';

/** The chunks that are shown (RFC 9649, section 2.7). */
const shown: ReadonlySet<string> = new Set(['VP8 ', 'VP8L', 'VP8X', 'ALPH', 'ANIM', 'ANMF', 'ICCP']);

/** Bits of the flags in `VP8X`. */
const flags = { exif: 8, xmp: 4 } as const;

/**
 * A WebP file without metadata that does not change how it is shown.
 *
 * @throws PictureError if it is damaged
 */
export function recompressWebp(webp: Uint8Array): Uint8Array {
  const view = new DataView(webp.buffer, webp.byteOffset, webp.byteLength);
  const end = 8 + view.getUint32(4, true);
  if (end > webp.length) throw new PictureError('it ends too early');
  const kept: { readonly type: string; data: Uint8Array }[] = [];
  for (let at = 12; at + 8 <= end;) {
    const type = Buffer.from(webp.subarray(at, at + 4)).toString('latin1');
    const size = view.getUint32(at + 4, true);
    if (at + 8 + size > end) throw new PictureError('it ends too early');
    const data = webp.subarray(at + 8, at + 8 + size);
    const exif = type === 'EXIF' ? shortenedExif(data) : undefined;
    if (shown.has(type)) kept.push({ type, data });
    else if (exif) kept.push({ type, data: exif });
    at += 8 + size + (size % 2);
  }
  const extended = kept.find(({ type }) => type === 'VP8X');
  if (extended) {
    extended.data = extended.data.slice();
    const hasExif = kept.some(({ type }) => type === 'EXIF');
    extended.data[0]! &= ~(flags.xmp | (hasExif ? 0 : flags.exif));
  }
  const body = Buffer.concat(kept.map(chunk));
  const head = Buffer.from('RIFF\0\0\0\0WEBP', 'latin1');
  head.writeUInt32LE(body.length + 4, 4);
  return Buffer.concat([head, body]);
}

function chunk({ type, data }: { readonly type: string; readonly data: Uint8Array }): Uint8Array {
  const head = Buffer.from(`${type}\0\0\0\0`, 'latin1');
  head.writeUInt32LE(data.length, 4);
  return Buffer.concat([head, data, Buffer.alloc(data.length % 2)]);
}
