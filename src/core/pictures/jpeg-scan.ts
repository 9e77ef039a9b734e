import { GrowingBytes } from './growing-bytes.js';
import { bestHuffmanCode, type HuffmanCode, type HuffmanTable } from './jpeg-huffman.js';

/** A component of a frame, with its sampling factors. */
export interface Component {
  readonly id: number;
  readonly horizontal: number;
  readonly vertical: number;
}

/** What a frame header says. */
export interface Frame {
  readonly width: number;
  readonly height: number;
  readonly components: readonly Component[];
}

/** The tables in use, by their numbers. */
export interface HuffmanTables {
  readonly dc: Map<number, HuffmanTable>;
  readonly ac: Map<number, HuffmanTable>;
}

/** A scan with other tables. */
export interface RecodedScan {
  /** The content of a segment that defines the tables. */
  readonly tables: Uint8Array;
  readonly scan: Uint8Array;
}

/** The number of coefficients of a block. */
const blockSize = 64;

/**
 * Codes a sequential scan with the best tables for it (ITU-T T.81, annex F).
 *
 * @param header without marker and length (section B.2.3)
 * @param restart the number of units between restart markers; 0 for none
 * @returns undefined if the scan is not as expected
 */
export function recodeScan(
  header: Uint8Array,
  scan: Uint8Array,
  frame: Frame,
  tables: HuffmanTables,
  restart: number,
): RecodedScan | undefined {
  const parts = Array.from({ length: header[0]! }, (_, at) => {
    const component = frame.components.find(({ id }) => id === header[1 + at * 2]);
    const selector = header[2 + at * 2]!;
    return component && { component, dc: selector >> 4, ac: selector & 15 };
  });
  if (!parts.every((part) => part !== undefined)) return undefined;
  const blocks = parts.flatMap((part) => {
    const { horizontal, vertical } = part.component;
    return Array<typeof part>(parts.length === 1 ? 1 : horizontal * vertical).fill(part);
  });
  const coder = new ScanReader(scan, tables);
  const units = unitsOf(
    frame,
    parts.map(({ component }) => component),
  );
  for (let unit = 0; unit < units; unit++) {
    if (restart > 0 && unit > 0 && unit % restart === 0 && !coder.restart()) return undefined;
    for (const { dc, ac } of blocks) if (!coder.block(dc, ac)) return undefined;
  }
  return coder.isAtEnd ? coder.recoded() : undefined;
}

/** The number of units of a scan (section A.2). */
function unitsOf({ width, height, components }: Frame, scanned: readonly Component[]): number {
  const most = (of: (one: Component) => number): number => Math.max(...components.map(of));
  const [across, down] = [most(({ horizontal }) => horizontal), most(({ vertical }) => vertical)];
  const [only] = scanned;
  if (scanned.length > 1 || !only) return Math.ceil(width / (8 * across)) * Math.ceil(height / (8 * down));
  const [ownWidth, ownHeight] = [
    Math.ceil((width * only.horizontal) / across),
    Math.ceil((height * only.vertical) / down),
  ];
  return Math.ceil(ownWidth / 8) * Math.ceil(ownHeight / 8);
}

/** An entry of the list of symbols that stands for a restart marker. */
const restartMark = 0xffffffff;

/** Reads the symbols of a scan, with the bits after each of them. */
class ScanReader {
  /** Each a table (0 to 7: those for DC, then those for AC), a symbol, and up to 16 bits, in 27 bits. */
  #symbols = new Uint32Array(1 << 16);
  #size = 0;
  readonly #counts = new Map<number, Uint32Array>();
  #at = 0;
  #bits = 0;
  #left = 0;
  /** True after an impossible code, or beyond the end. */
  #isDamaged = false;

  constructor(
    private readonly scan: Uint8Array,
    private readonly tables: HuffmanTables,
  ) {}

  /** Reads a block; returns whether that was possible. */
  block(dc: number, ac: number): boolean {
    const [forDc, forAc] = [this.tables.dc.get(dc), this.tables.ac.get(ac)];
    if (!forDc || !forAc || dc > 3 || ac > 3) return false;
    const size = this.#symbol(forDc);
    if (size > 11) return false;
    this.#add(dc, size, this.#take(size));
    for (let at = 1; at < blockSize; at++) {
      const symbol = this.#symbol(forAc);
      const [zeros, bits] = [symbol >> 4, symbol & 15];
      this.#add(4 + ac, symbol, this.#take(bits));
      // The end of the block, or sixteen zeros.
      if (bits === 0 && zeros !== 15) {
        if (zeros > 0) return false;
        break;
      }
      at += zeros;
      if (at >= blockSize) return false;
    }
    return !this.#isDamaged;
  }

  /** Reads a restart marker. */
  restart(): boolean {
    this.#bits = 0;
    this.#left = 0;
    while (this.scan[this.#at] === 0xff && this.scan[this.#at + 1] === 0xff) this.#at++;
    const marker = this.scan[this.#at + 1] ?? 0;
    if (this.scan[this.#at] !== 0xff || marker < 0xd0 || marker > 0xd7) return false;
    this.#at += 2;
    this.#push(restartMark);
    return true;
  }

  /** True if only padding is left. */
  get isAtEnd(): boolean {
    return this.scan.subarray(this.#at).every((byte) => byte === 0xff);
  }

  recoded(): RecodedScan {
    const codes = new Map([...this.#counts].map(([table, counts]) => [table, bestHuffmanCode(counts)]));
    const tables = [...codes]
      .sort(([a], [b]) => a - b)
      .flatMap(([table, { written }]) => [table < 4 ? table : 0x10 | (table - 4), ...written]);
    return { tables: Uint8Array.from(tables), scan: this.#written(codes) };
  }

  #written(codes: ReadonlyMap<number, HuffmanCode>): Uint8Array {
    const out = new ScanWriter(this.scan.length);
    const byTable = Array.from({ length: 8 }, (_, table) => codes.get(table));
    for (let at = 0; at < this.#size; at++) {
      const entry = this.#symbols[at]!;
      if (entry === restartMark) {
        out.restart();
        continue;
      }
      const symbol = (entry >>> 16) & 255;
      const { codes: code, lengths } = byTable[entry >>> 24]!;
      out.write(code[symbol]!, lengths[symbol]!);
      const size = entry >>> 24 < 4 ? symbol : symbol & 15;
      out.write(entry & 0xffff, size);
    }
    return out.end();
  }

  #add(table: number, symbol: number, bits: number): void {
    let counts = this.#counts.get(table);
    if (!counts) this.#counts.set(table, (counts = new Uint32Array(256)));
    counts[symbol]!++;
    this.#push(((table << 24) | (symbol << 16) | bits) >>> 0);
  }

  #push(entry: number): void {
    if (this.#size === this.#symbols.length) {
      const larger = new Uint32Array(this.#size * 2);
      larger.set(this.#symbols);
      this.#symbols = larger;
    }
    this.#symbols[this.#size++] = entry;
  }

  #symbol({ largest, offset, symbols }: HuffmanTable): number {
    let code = 0;
    for (let length = 1; length <= 16; length++) {
      code = (code << 1) | this.#take(1);
      if (code <= largest[length]!) return symbols[code + offset[length]!] ?? this.#damaged();
    }
    return this.#damaged();
  }

  #damaged(): number {
    this.#isDamaged = true;
    return 0;
  }

  #take(count: number): number {
    while (this.#left < count) {
      const byte = this.scan[this.#at];
      // A marker, or the end: nothing may be taken from there.
      if (byte === undefined || (byte === 0xff && this.scan[this.#at + 1] !== 0)) return this.#damaged();
      this.#at += byte === 0xff ? 2 : 1;
      this.#bits = ((this.#bits << 8) | byte) & 0xffffff;
      this.#left += 8;
    }
    this.#left -= count;
    return (this.#bits >> this.#left) & ((1 << count) - 1);
  }
}

/** Writes bits, with a zero after each byte 0xff. */
class ScanWriter {
  readonly #bytes: GrowingBytes;
  #bits = 0;
  #count = 0;
  #restarts = 0;

  constructor(expected: number) {
    this.#bytes = new GrowingBytes(expected);
  }

  write(bits: number, count: number): void {
    for (let left = count; left > 0;) {
      const taken = Math.min(left, 8 - this.#count);
      this.#bits = (this.#bits << taken) | ((bits >> (left - taken)) & ((1 << taken) - 1));
      this.#count += taken;
      left -= taken;
      if (this.#count === 8) this.#flush();
    }
  }

  restart(): void {
    this.#pad();
    this.#bytes.push(0xff);
    this.#bytes.push(0xd0 + (this.#restarts++ % 8));
  }

  end(): Uint8Array {
    this.#pad();
    return this.#bytes.all;
  }

  /** Fills the last byte with ones (section F.1.2.3). */
  #pad(): void {
    if (this.#count > 0) this.write((1 << (8 - this.#count)) - 1, 8 - this.#count);
  }

  #flush(): void {
    this.#bytes.push(this.#bits);
    if (this.#bits === 0xff) this.#bytes.push(0);
    this.#bits = 0;
    this.#count = 0;
  }
}
