/** Bytes whose number is only known at the end. */
export class GrowingBytes {
  #bytes: Uint8Array;
  #length = 0;

  /** @param expected the number of bytes that are probably enough */
  constructor(expected: number) {
    this.#bytes = new Uint8Array(expected + 16);
  }

  push(byte: number): void {
    if (this.#length === this.#bytes.length) {
      const longer = new Uint8Array(this.#length * 2);
      longer.set(this.#bytes);
      this.#bytes = longer;
    }
    this.#bytes[this.#length++] = byte;
  }

  /** All bytes so far. */
  get all(): Uint8Array {
    return this.#bytes.subarray(0, this.#length);
  }
}
