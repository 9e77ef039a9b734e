import type { Trace } from './trace.js';

/**
 * Results by content hash, and traces by job key. Everything in a store can be computed again: missing entries only
 * cost time.
 */
export interface Store {
  /** True if nothing more is written, because there is no space left. */
  readonly isFull: boolean;
  /** Lets everything that is added until the next flush be written then. */
  defer(): void;
  /** The traces of a job, the latest first. */
  traces(key: string): readonly Trace[];
  addTrace(key: string, trace: Trace): void;
  /** A result by its content hash; undefined if it is missing or damaged. */
  result(hash: string): Uint8Array | undefined;
  has(hash: string): boolean;
  addResult(hash: string, bytes: Uint8Array): void;
  /** Waits until everything that was added can be read by other processes. */
  flush(): Promise<void>;
  /** Evicts the least recently used entries above the maximum size, and closes the store. */
  close(): Promise<void>;
}
