import { packPixels, unpackPixels } from './gif-lzw.js';
import { PictureError } from './picture-error.js';

/** The application extensions that change how a picture is shown: how often an animation repeats, and its colours. */
const shownExtensions: ReadonlySet<string> = new Set(['NETSCAPE2.0', 'ANIMEXTS1.0', 'ICCRGBG1012']);

/** Labels of extensions (GIF89a, sections 23 to 26). */
const labels = { control: 0xf9, comment: 0xfe, application: 0xff } as const;

/** A part of a file after the logical screen. */
type Part = ImagePart | { readonly label: number; readonly bytes: Uint8Array };

/** An image (GIF89a, sections 20 to 22). */
interface ImagePart {
  /** Its place and size, and flags, without the separator. */
  readonly descriptor: Uint8Array;
  /** Its own colours; empty without any. */
  readonly colours: Uint8Array;
  /** The number of bits of a pixel. */
  readonly codeSize: number;
  /** Without the sizes of blocks. */
  readonly data: Uint8Array;
}

/** A file as its parts. */
interface Gif {
  /** The header and the logical screen descriptor. */
  readonly head: Uint8Array;
  /** The colours of images without their own; empty without any. */
  readonly colours: Uint8Array;
  readonly parts: readonly Part[];
}

/**
 * A smaller GIF file with the same pixels: without comments and other blocks that change nothing (GIF89a, sections 15 to
 * 27), without colours that no pixel has, and with its pixels packed again.
 *
 * @throws PictureError if it is damaged
 */
export function recompressGif(gif: Uint8Array, isThorough: boolean): Uint8Array {
  const read = readGif(gif);
  const plain = bytesOf(read);
  const repacked = bytesOf(repack(read, isThorough) ?? read);
  return repacked.length < plain.length ? repacked : plain;
}

function readGif(gif: Uint8Array): Gif {
  const start = 13 + tableSize(gif[10] ?? 0);
  const parts: Part[] = [];
  for (let at = start; ;) {
    const kind = gif[at];
    if (kind === 0x3b) return { head: gif.subarray(0, 13), colours: gif.subarray(13, start), parts };
    const begin = at;
    if (kind === 0x21) {
      at = afterBlocks(gif, at + 2);
      const part = { label: gif[begin + 1]!, bytes: gif.subarray(begin, at) };
      if (isShown(part)) parts.push(part);
    } else if (kind === 0x2c) {
      const descriptor = gif.subarray(at + 1, at + 10);
      const end = at + 10 + tableSize(gif[at + 9] ?? 0);
      at = afterBlocks(gif, end + 1);
      const data = withoutSizes(gif.subarray(end + 1, at));
      parts.push({ descriptor, colours: gif.subarray(begin + 10, end), codeSize: gif[end]!, data });
    } else throw new PictureError(kind === undefined ? 'it ends too early' : 'there is an unknown block in it');
  }
}

function isShown({ label, bytes }: Exclude<Part, ImagePart>): boolean {
  const name = Buffer.from(bytes.subarray(3, 14)).toString('latin1');
  return label === labels.application ? shownExtensions.has(name) : label !== labels.comment;
}

/** The size of a table of colours, by the flags before it. */
const tableSize = (flags: number): number => ((flags & 0x80) === 0 ? 0 : 3 << ((flags & 7) + 1));

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

function withoutSizes(blocks: Uint8Array): Uint8Array {
  const parts: Uint8Array[] = [];
  for (let at = 0; blocks[at] !== 0; at += blocks[at]! + 1) parts.push(blocks.subarray(at + 1, at + 1 + blocks[at]!));
  return Buffer.concat(parts);
}

function bytesOf({ head, colours, parts }: Gif): Uint8Array {
  return Buffer.concat([
    head,
    colours,
    ...parts.flatMap((part) =>
      'label' in part
        ? [part.bytes]
        : [Uint8Array.of(0x2c), part.descriptor, part.colours, Uint8Array.of(part.codeSize), withSizes(part.data)],
    ),
    Uint8Array.of(0x3b),
  ]);
}

/** Data in blocks of up to 255 bytes, with their sizes. */
function withSizes(data: Uint8Array): Uint8Array {
  const parts: Uint8Array[] = [];
  for (let at = 0; at < data.length; at += 255) {
    const block = data.subarray(at, at + 255);
    parts.push(Uint8Array.of(block.length), block);
  }
  return Buffer.concat([...parts, Uint8Array.of(0)]);
}

/** The colours of some images, without those that no pixel has. */
interface Palette {
  /** The new number of each colour; undefined for one that is not used. */
  readonly numbers: readonly (number | undefined)[];
  readonly colours: Uint8Array;
  /** The number of bits of a pixel. */
  readonly bits: number;
}

/**
 * Packs the pixels of all images again.
 *
 * @returns undefined for a file that browsers may show in different ways: some pixels are missing, or have no colour
 */
function repack(gif: Gif, isThorough: boolean): Gif | undefined {
  const shared = new Set<number>();
  const own = new Map<ImagePart, Palette>();
  for (const [at, part] of gif.parts.entries()) {
    // Texts in the colours of the file.
    if ('label' in part && part.label === 0x01) return undefined;
    if ('label' in part) continue;
    const used = coloursIn(part, gif, transparentBefore(gif, at));
    if (!used) return undefined;
    if (part.colours.length > 0) own.set(part, paletteOf(part.colours, used));
    else for (const colour of used) shared.add(colour);
  }
  const palette = paletteOf(gif.colours, shared);
  const paletteAt = (at: number): Palette => {
    const next = gif.parts.slice(at).find((part): part is ImagePart => !('label' in part));
    return (next && own.get(next)) ?? palette;
  };
  const parts = gif.parts.map((part, at): Part => {
    const { numbers, colours, bits } = paletteAt(at);
    if ('label' in part) return part.label === labels.control ? withTransparent(part, numbers) : part;
    const pixels = pixelsOf(part)!.map((colour) => numbers[colour]!);
    const codeSize = Math.max(2, bits);
    const packed = packPixels(pixels, codeSize, isThorough);
    const isSame = codeSize === part.codeSize && numbers.every((number, colour) => number === colour);
    const table = part.colours.length > 0 ? { descriptor: withTable(part.descriptor, 8, bits), colours } : {};
    return { ...part, ...table, codeSize, data: isSame && part.data.length <= packed.length ? part.data : packed };
  });
  if (gif.colours.length === 0) return { ...gif, parts };
  const head = withTable(gif.head, 10, palette.bits);
  // The colour behind the images, which browsers do not show.
  head[11] = palette.numbers[head[11]!] ?? 0;
  return { head, colours: palette.colours, parts };
}

/** The colours that the pixels of an image have, and the transparent one; undefined if one of them is not in its table. */
function coloursIn(
  part: ImagePart,
  { colours }: Gif,
  transparent: number | undefined,
): ReadonlySet<number> | undefined {
  const used = new Set(pixelsOf(part) ?? []);
  const known = (part.colours.length > 0 ? part.colours : colours).length / 3;
  if (used.size === 0 || [...used].some((colour) => colour >= known)) return undefined;
  if (transparent !== undefined && transparent < known) used.add(transparent);
  return used;
}

function pixelsOf({ descriptor, codeSize, data }: ImagePart): Uint8Array | undefined {
  const view = new DataView(descriptor.buffer, descriptor.byteOffset, descriptor.byteLength);
  if (codeSize < 1 || codeSize > 8) return undefined;
  return unpackPixels(data, codeSize, view.getUint16(4, true) * view.getUint16(6, true));
}

/** The transparent colour of an image, which the control extension before it names. */
function transparentBefore({ parts }: Gif, at: number): number | undefined {
  const before = parts[at - 1];
  const isControl = before && 'label' in before && before.label === labels.control;
  return isControl && (before.bytes[3]! & 1) === 1 ? before.bytes[6] : undefined;
}

function withTransparent(part: Exclude<Part, ImagePart>, numbers: Palette['numbers']): Part {
  if ((part.bytes[3]! & 1) === 0) return part;
  const bytes = Uint8Array.from(part.bytes);
  const number = numbers[bytes[6]!];
  // A colour that is in no table is none.
  if (number === undefined) bytes[3]! &= ~1;
  bytes[6] = number ?? 0;
  return { ...part, bytes };
}

function paletteOf(colours: Uint8Array, used: ReadonlySet<number>): Palette {
  const kept = [...used].sort((a, b) => a - b);
  const numbers: (number | undefined)[] = [];
  for (const [number, colour] of kept.entries()) numbers[colour] = number;
  const bits = Math.max(1, Math.ceil(Math.log2(Math.max(1, kept.length))));
  const table = new Uint8Array(3 << bits);
  for (const [number, colour] of kept.entries()) table.set(colours.subarray(colour * 3, colour * 3 + 3), number * 3);
  return { numbers, colours: table, bits };
}

/** A descriptor with another size of the table of colours after it. */
function withTable(bytes: Uint8Array, at: number, bits: number): Uint8Array {
  const changed = Uint8Array.from(bytes);
  changed[at] = (changed[at]! & ~7) | (bits - 1);
  return changed;
}
