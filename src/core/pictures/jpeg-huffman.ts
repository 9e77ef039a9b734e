import { PictureError } from './picture-error.js';

/** A Huffman table for decoding (ITU-T T.81, annexes C and F.2.2.3). */
export interface HuffmanTable {
  /** For each length of a code, the largest code, or -1. */
  readonly largest: Int32Array;
  /** For each length, what to add to a code for the index of its symbol. */
  readonly offset: Int32Array;
  readonly symbols: Uint8Array;
}

/** A Huffman table for encoding, and as it is written. */
export interface HuffmanCode {
  readonly codes: Uint32Array;
  readonly lengths: Uint8Array;
  /** The numbers of codes of each length, and the symbols. */
  readonly written: Uint8Array;
}

/** The longest code. */
const maxLength = 16;

/** @param counts the numbers of codes of the lengths 1 to 16 */
export function readHuffmanTable(counts: Uint8Array, symbols: Uint8Array): HuffmanTable {
  const largest = new Int32Array(maxLength + 1).fill(-1);
  const offset = new Int32Array(maxLength + 1);
  let [code, index] = [0, 0];
  for (let length = 1; length <= maxLength; length++) {
    const count = counts[length - 1]!;
    offset[length] = index - code;
    if (count > 0) {
      code += count;
      index += count;
      largest[length] = code - 1;
      if (code > 1 << length) throw new PictureError('a Huffman table in it is impossible');
    }
    code <<= 1;
  }
  return { largest, offset, symbols };
}

/**
 * The best table for some symbols (ITU-T T.81, annex K.2).
 *
 * @param counts how often each of the 256 symbols occurs
 */
export function bestHuffmanCode(counts: Uint32Array): HuffmanCode {
  const sizes = codeSizes(counts);
  const bits = limited(sizes);
  const symbols: number[] = [];
  // Of equal lengths, symbols are in their own order, so that results are the same everywhere.
  for (let length = 1; length < bits.all.length; length++)
    for (let symbol = 0; symbol < 256; symbol++) if (sizes[symbol] === length) symbols.push(symbol);
  const codes = new Uint32Array(256);
  const lengths = new Uint8Array(256);
  let [code, at] = [0, 0];
  for (let length = 1; length <= maxLength; length++) {
    for (let left = bits.counts[length]!; left > 0; left--) {
      const symbol = symbols[at++]!;
      codes[symbol] = code++;
      lengths[symbol] = length;
    }
    code <<= 1;
  }
  return { codes, lengths, written: Uint8Array.from([...bits.counts.slice(1), ...symbols]) };
}

/** The lengths of codes before they are limited; figures K.1 and following. */
function codeSizes(counts: Uint32Array): Uint8Array {
  // One more symbol takes the code of only ones, which must not be used.
  const frequencies = [...counts, 1];
  const sizes = new Uint8Array(257);
  const others = new Int16Array(257).fill(-1);
  for (;;) {
    const [first, second] = twoRarest(frequencies);
    if (second < 0) return sizes;
    frequencies[first]! += frequencies[second]!;
    frequencies[second] = 0;
    let last = first;
    for (let at = first; at >= 0; at = others[at]!) {
      sizes[at]!++;
      last = at;
    }
    others[last] = second;
    for (let at = second; at >= 0; at = others[at]!) sizes[at]!++;
  }
}

/** The indexes of the two smallest frequencies, of equal ones the last; -1 if there is only one. */
function twoRarest(frequencies: readonly number[]): [first: number, second: number] {
  let [first, second] = [-1, -1];
  for (let at = 0; at < frequencies.length; at++) {
    const one = frequencies[at]!;
    if (one === 0) continue;
    if (first < 0 || one <= frequencies[first]!) [first, second] = [at, first];
    else if (second < 0 || one <= frequencies[second]!) second = at;
  }
  return [first, second];
}

/** The numbers of codes of each length, none longer than 16 (figure K.3), without the reserved one. */
function limited(sizes: Uint8Array): { readonly all: readonly number[]; readonly counts: readonly number[] } {
  const counts = Array<number>(258).fill(0);
  for (const size of sizes) if (size > 0) counts[size]!++;
  const all = [...counts];
  for (let length = counts.length - 1; length > maxLength; length--)
    while (counts[length]! > 0) {
      let shorter = length - 2;
      while (counts[shorter] === 0) shorter--;
      counts[length]! -= 2;
      counts[length - 1]!++;
      counts[shorter + 1]! += 2;
      counts[shorter]!--;
    }
  let longest = maxLength;
  while (counts[longest] === 0) longest--;
  counts[longest]!--;
  return { all, counts: counts.slice(0, maxLength + 1) };
}
