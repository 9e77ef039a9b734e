/** A number as a varint (Protocol Buffers, encoding, "base 128 varints"). */
function varint(value: number): number[] {
  const bytes: number[] = [];
  for (; value > 0x7f; value >>>= 7) bytes.push((value & 0x7f) | 0x80);
  return [...bytes, value];
}

/**
 * Encodes a message: its length, the number of its compilation, and the content (Sass specification, embedded protocol,
 * "packet structure").
 */
export function packet(compilation: number, message: Uint8Array): Buffer {
  const head = varint(compilation);
  return Buffer.concat([Buffer.from(varint(head.length + message.length)), Buffer.from(head), message]);
}

/** Puts packets together from the pieces in which a stream delivers them. */
export class PacketReader {
  #pieces: Buffer[] = [];
  #length = 0;
  /** The number of bytes that have to be there before it is worth looking. */
  #wanted = 1;

  constructor(private readonly hear: (compilation: number, message: Uint8Array) => void) {}

  /** Adds a chunk, and calls back with every message that it completes. */
  take(piece: Buffer): void {
    this.#pieces.push(piece);
    this.#length += piece.length;
    if (this.#length < this.#wanted) return;
    const bytes = this.#pieces.length === 1 ? piece : Buffer.concat(this.#pieces);
    let at = 0;
    for (;;) {
      const length = readVarint(bytes, at);
      const end = length && length.end + length.value;
      this.#wanted = end === undefined ? bytes.length - at + 1 : end - at;
      if (length === undefined || end === undefined || end > bytes.length) break;
      const compilation = readVarint(bytes, length.end);
      at = end;
      if (compilation) this.hear(compilation.value, bytes.subarray(compilation.end, end));
    }
    this.#pieces = at === bytes.length ? [] : [bytes.subarray(at)];
    this.#length = bytes.length - at;
  }
}

/** A varint and where it ends; undefined if its end has not come yet. */
function readVarint(bytes: Uint8Array, start: number): { value: number; end: number } | undefined {
  let value = 0;
  for (let at = start; at < bytes.length; at++) {
    const byte = bytes[at]!;
    value += (byte & 0x7f) * 2 ** (7 * (at - start));
    if (byte < 0x80) return { value, end: at + 1 };
  }
  return undefined;
}
