import type { Diagnostic, Place } from '../diagnostics/index.js';
import type { ConstantValue } from '../config/settings.js';
import type { Asset } from './asset.js';

/** The settings of a project that steps may depend on. */
export interface StepEnvironment {
  /** Resolved target browsers, such as `safari 17.4`. */
  readonly browsers: readonly string[];
  readonly constants: Readonly<Record<string, ConstantValue>>;
  /** Whether steps have to keep source maps. */
  readonly maps: boolean;
}

/** The only way a step touches the world. All paths are relative to the project, with `/`. */
export interface StepContext {
  readonly settings: StepEnvironment;
  /** Asks a step to stop early. */
  readonly signal: AbortSignal;
  /** The bytes of a file, or nothing when it is not there; either is noted. */
  read(path: string): Uint8Array | undefined;
  /** Whether there is such a file; noted as well. */
  exists(path: string): boolean;
  /** The files that a glob matches, in order; noted as well. */
  list(glob: string): readonly string[];
  /** Tells the user something. An error keeps the pipeline from publishing. */
  report(diagnostic: Diagnostic): void;
  /**
   * The place in a user's file that a stretch of an asset's text comes from; 0-based offsets.
   */
  place(asset: Asset, text: string, start: number, end: number): Place;
  /** Something that is made once for the whole run, such as a compiler's process; it is closed when the run ends. */
  resource<T extends Resource>(name: string, make: () => Promise<T>): Promise<T>;
}

/** Something that lives as long as a run. */
export interface Resource {
  close(): Promise<void> | void;
}
