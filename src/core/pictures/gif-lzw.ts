import { GrowingBytes } from './growing-bytes.js';

/** The number of codes at most (GIF89a, appendix F). */
const maxCodes = 4096;

/** The number of bits of a code at most. */
const maxBits = 12;

/**
 * Decodes the pixels of an image (GIF89a, appendix F).
 *
 * @param data without the sizes of blocks
 * @param codeSize the number of bits of a pixel, as the file names it
 * @param count the number of pixels
 * @returns their colours; undefined if there are fewer, or if a code means nothing
 */
export function unpackPixels(data: Uint8Array, codeSize: number, count: number): Uint8Array | undefined {
  const clear = 1 << codeSize;
  // A code stands for the pixels of another one, and one more.
  const before = new Int16Array(maxCodes).fill(-1);
  const [last, first] = [new Uint8Array(maxCodes), new Uint8Array(maxCodes)];
  const length = new Uint16Array(maxCodes).fill(1);
  for (let code = 0; code < clear; code++) last[code] = first[code] = code;
  const pixels = new Uint8Array(count);
  let [bits, next, previous] = [codeSize + 1, clear + 2, -1];
  let [held, heldBits, at, done] = [0, 0, 0, 0];
  while (done < count) {
    for (; heldBits < bits; heldBits += 8) {
      if (at === data.length) return undefined;
      held |= data[at++]! << heldBits;
    }
    const code = held & ((1 << bits) - 1);
    held >>>= bits;
    heldBits -= bits;
    if (code === clear) {
      [bits, next, previous] = [codeSize + 1, clear + 2, -1];
      continue;
    }
    const isNew = code === next && previous >= 0;
    if (code === clear + 1 || (code >= next && !isNew)) return undefined;
    if (previous >= 0 && next < maxCodes) {
      before[next] = previous;
      first[next] = first[previous]!;
      last[next] = isNew ? first[previous]! : first[code]!;
      length[next] = length[previous]! + 1;
      next++;
      if (next === 1 << bits && bits < maxBits) bits++;
    } else if (isNew) return undefined;
    done += length[code]!;
    for (let one = code, to = done - 1; one >= 0; one = before[one]!, to--) if (to < count) pixels[to] = last[one]!;
    previous = code;
  }
  return pixels;
}

/** A way of choosing codes. */
interface Packing {
  /** When all codes are in use: begin anew, keep them, or begin anew when they fit worse than they did. */
  readonly whenFull: 'clear' | 'keep' | 'adapt';
  /** The number of pixels that a code may be shorter than it could be, if the next one is longer then. */
  readonly slack: number;
}

const packings: readonly Packing[] = [
  { whenFull: 'clear', slack: 0 },
  { whenFull: 'keep', slack: 0 },
  { whenFull: 'adapt', slack: 0 },
];

const slowPackings: readonly Packing[] = packings.map((packing) => ({ ...packing, slack: 8 }));

/**
 * Encodes the pixels of an image in several ways.
 *
 * @param codeSize the number of bits of a pixel, at least 2
 * @returns the shortest data, without the sizes of blocks
 */
export function packPixels(pixels: Uint8Array, codeSize: number, isThorough: boolean): Uint8Array {
  const [first, ...others] = isThorough ? [...packings, ...slowPackings] : packings;
  const packer = new Packer(pixels, codeSize);
  return others.reduce((best, packing) => {
    const data = packer.pack(packing);
    return data.length < best.length ? data : best;
  }, packer.pack(first!));
}

/** The number of codes after which it is checked whether they still fit. */
const checkedCodes = 128;

/** The part of the pixels in that many codes, compared with the most so far, below which they fit no longer. */
const fitting = 0.8;

class Packer {
  /** For a code and the pixel after it, the code for both; 0 if there is none. */
  readonly #longer = new Uint16Array(maxCodes << 8);
  /** The places in that table that are in use. */
  readonly #used: number[] = [];
  readonly #clear: number;

  constructor(
    private readonly pixels: Uint8Array,
    private readonly codeSize: number,
  ) {
    this.#clear = 1 << codeSize;
  }

  pack({ whenFull, slack }: Packing): Uint8Array {
    const { pixels } = this;
    const bits = new BitWriter(pixels.length);
    const fit = new Fit();
    let [width, next, previous] = [0, 0, -1];
    const start = (): void => {
      this.#forget();
      [width, next, previous] = [this.codeSize + 1, this.#clear + 2, -1];
    };
    bits.write(this.#clear, this.codeSize + 1);
    start();
    for (let at = 0; at < pixels.length;) {
      // The last code and the next pixel become a code, which may be used at once.
      const isAdded = previous >= 0 && next < maxCodes;
      if (isAdded) this.#add(previous, pixels[at]!, next);
      const length = this.#lengthAt(at, slack);
      previous = this.#codeAt(at, length);
      bits.write(previous, width);
      at += length;
      if (!isAdded) {
        if (next < maxCodes || whenFull !== 'adapt' || fit.stays(at)) continue;
      } else {
        next++;
        if (next === 1 << width && width < maxBits) width++;
        if (next < maxCodes || whenFull !== 'clear') continue;
      }
      bits.write(this.#clear, width);
      fit.reset(at);
      start();
    }
    bits.write(this.#clear + 1, width);
    return bits.end();
  }

  #forget(): void {
    for (const place of this.#used) this.#longer[place] = 0;
    this.#used.length = 0;
  }

  #add(code: number, pixel: number, next: number): void {
    const place = (code << 8) | pixel;
    if (this.#longer[place] !== 0) return;
    this.#longer[place] = next;
    this.#used.push(place);
  }

  /** The number of pixels from a place on that the next code stands for. */
  #lengthAt(at: number, slack: number): number {
    const longest = this.#longestAt(at);
    let [best, reach] = [longest, slack === 0 ? 0 : longest + this.#longestAt(at + longest)];
    for (let length = longest - 1; length >= Math.max(1, longest - slack); length--) {
      const both = length + this.#longestAt(at + length);
      if (both > reach) [best, reach] = [length, both];
    }
    return best;
  }

  /** The largest number of pixels from a place on that there is a code for. */
  #longestAt(at: number): number {
    const { pixels } = this;
    if (at >= pixels.length) return 0;
    let [code, end] = [pixels[at]!, at + 1];
    for (; end < pixels.length; end++) {
      const longer = this.#longer[(code << 8) | pixels[end]!]!;
      if (longer === 0) break;
      code = longer;
    }
    return end - at;
  }

  #codeAt(at: number, length: number): number {
    let code = this.pixels[at]!;
    for (let end = at + 1; end < at + length; end++) code = this.#longer[(code << 8) | this.pixels[end]!]!;
    return code;
  }
}

/** Tells how well the codes fit when all of them are in use. */
class Fit {
  #codes = 0;
  #start = 0;
  #most = 0;

  reset(at: number): void {
    [this.#codes, this.#start, this.#most] = [0, at, 0];
  }

  /** Reports whether the codes are kept after another one up to a pixel. */
  stays(at: number): boolean {
    if (this.#codes === 0) this.#start = at;
    this.#codes++;
    if (this.#codes % checkedCodes !== 0) return true;
    const pixels = at - this.#start;
    this.#start = at;
    this.#most = Math.max(this.#most, pixels);
    return pixels >= this.#most * fitting;
  }
}

/** Writes numbers of some bits one after the other, the lowest bits first. */
class BitWriter {
  readonly #bytes: GrowingBytes;
  #held = 0;
  #heldBits = 0;

  /** @param expected the number of bytes that are probably enough */
  constructor(expected: number) {
    this.#bytes = new GrowingBytes(expected);
  }

  write(value: number, bits: number): void {
    this.#held |= value << this.#heldBits;
    this.#heldBits += bits;
    for (; this.#heldBits >= 8; this.#heldBits -= 8) {
      this.#bytes.push(this.#held & 0xff);
      this.#held >>>= 8;
    }
  }

  end(): Uint8Array {
    if (this.#heldBits > 0) this.#bytes.push(this.#held);
    return this.#bytes.all;
  }
}
