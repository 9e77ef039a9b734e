import { PictureError } from './picture-error.js';

/** The application extensions that change how a picture is shown: how often an animation repeats, and its colours. */
const shownExtensions: ReadonlySet<string> = new Set(['NETSCAPE2.0', 'ANIMEXTS1.0', 'ICCRGBG1012']);

/**
 * A GIF file without comments and other blocks that change nothing (GIF89a, sections 15 to 27).
 *
 * @throws PictureError if it is damaged
 */
export function recompressGif(gif: Uint8Array): Uint8Array {
  const kept: Uint8Array[] = [];
  let at = 13 + colourTable(gif[10] ?? 0);
  kept.push(gif.subarray(0, at));
  for (;;) {
    const start = at;
    const kind = gif[at];
    if (kind === 0x3b) return Buffer.concat([...kept, gif.subarray(at, at + 1)]);
    if (kind === 0x21) {
      const label = gif[at + 1];
      const name = Buffer.from(gif.subarray(at + 3, at + 14)).toString('latin1');
      at = afterBlocks(gif, at + 2);
      const isShown = label === 0xff ? shownExtensions.has(name) : label !== 0xfe;
      if (isShown) kept.push(gif.subarray(start, at));
    } else if (kind === 0x2c) {
      // An image: its descriptor, colours, the size of codes, and data.
      at = afterBlocks(gif, at + 10 + colourTable(gif[at + 9] ?? 0) + 1);
      kept.push(gif.subarray(start, at));
    } else throw new PictureError(kind === undefined ? 'it ends too early' : 'there is an unknown block in it');
  }
}

/** The size of a colour table. */
const colourTable = (flags: number): number => ((flags & 0x80) === 0 ? 0 : 3 << ((flags & 7) + 1));

/** The offset after a sequence of blocks. */
function afterBlocks(gif: Uint8Array, start: number): number {
  let at = start;
  for (;;) {
    const size = gif[at];
    if (size === undefined) throw new PictureError('it ends too early');
    at += size + 1;
    if (size === 0) return at;
  }
}
