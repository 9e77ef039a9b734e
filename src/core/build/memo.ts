import type { AssetRef, Read } from '../cache/trace.js';
import type { Diagnostic } from '../diagnostics/index.js';
import type { FileReferences } from '../languages/references/index.js';

/** Why something ran. */
export interface Cause {
  /** It had not run before, its settings or the tools changed, or files did. */
  readonly kind: 'first' | 'settings' | 'changed';
  /** The files that were different, when that is why. */
  readonly paths: readonly string[];
}

/** A job as it was last done. */
export interface JobMemo {
  readonly step: string;
  readonly reads: readonly Read[];
}

/** A run of steps over one asset, or of one gathering step over many, as it was last done. */
export interface UnitMemo {
  /** What went in: `inputDigest` of its assets. */
  readonly input: string;
  readonly inputs: readonly string[];
  readonly jobs: readonly JobMemo[];
  readonly assets: readonly AssetRef[];
  readonly diagnostics: readonly Diagnostic[];
  /** The number of the build in which some of it last ran, and why. */
  readonly build: number;
  readonly cause: Cause;
}

/** A file to publish that an asset was turned into. */
export interface OutputFile {
  /** Relative to the project. */
  readonly path: string;
  readonly hash: string;
  readonly bytes: number;
  /** Its size as servers send it, once that is known. */
  gzipBytes: number | undefined;
  /** The sources of the asset. */
  readonly origins: readonly string[];
}

/** What an asset was turned into for publishing. */
export interface EmittedOutputs {
  readonly input: string;
  readonly outputs: readonly OutputFile[];
  /** What it refers to, where it is a file that may. */
  readonly references?: FileReferences | undefined;
}

/** What is remembered of a pipeline from one build to the next. */
export interface PipelineMemo {
  /** `memoKey` of the plan that it was built by. */
  readonly key: string;
  readonly units: ReadonlyMap<string, UnitMemo>;
  readonly emitted: ReadonlyMap<string, EmittedOutputs>;
}
