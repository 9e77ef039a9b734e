/** A random number generator (xorshift): short, and sufficient for test cases. */
export class Random {
  #state: number;

  /** @param seed the same seed gives the same numbers */
  constructor(seed: number) {
    this.#state = (seed * 2_654_435_761) >>> 0 || 1;
  }

  /** Returns a number from 0 up to and not including 1. */
  random(): number {
    this.#state ^= this.#state << 13;
    this.#state ^= this.#state >>> 17;
    this.#state ^= this.#state << 5;
    this.#state >>>= 0;
    return this.#state / 4_294_967_296;
  }

  /** True in this share of cases. */
  chance(share: number): boolean {
    return this.random() < share;
  }

  /** A whole number, both ends included. */
  between(least: number, most: number): number {
    return least + Math.floor(this.random() * (most - least + 1));
  }

  pick<T>(values: readonly T[]): T {
    return values[Math.floor(this.random() * values.length)]!;
  }
}
