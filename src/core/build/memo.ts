import type { AssetRef, Read } from '../cache/trace.js';
import type { Encoding } from '../config/settings.js';
import type { Diagnostic } from '../diagnostics/index.js';
import type { PictureVariants } from '../languages/html/picture-variants.js';
import type { FileReferences } from '../languages/references/index.js';

/** A digest that is equal for assets which no step can distinguish. */
export type Digest = string & { readonly isDigest: true };

/** The digest before there are any assets. */
export const noDigest = '' as Digest;

/** The reason why a job ran. */
export interface Cause {
  /** It had not run before, its settings or the tools changed, or files did. */
  readonly kind: 'first' | 'settings' | 'changed' | 'always';
  /** The files that were different, when that is why. */
  readonly paths: readonly string[];
}

/** A job of the last build. */
export interface JobMemo {
  readonly step: string;
  readonly reads: readonly Read[];
}

/** Identifies a unit in all builds of a pipeline: the segment, and the asset or all assets. */
export type UnitId = string & { readonly isUnitId: true };

/** @param asset the id of the asset; undefined for a unit of all assets */
export const unitId = (segment: number, asset: string | undefined): UnitId =>
  (asset === undefined ? `${String(segment)} *` : `${String(segment)} ${asset}`) as UnitId;

/** The last run of the steps of a segment on one asset, or of an aggregate step on many. */
export interface UnitMemo {
  /** The index of the segment. */
  readonly segment: number;
  /** `inputDigest` of its assets. */
  readonly input: Digest;
  readonly inputs: readonly string[];
  readonly jobs: readonly JobMemo[];
  readonly assets: readonly AssetRef[];
  readonly diagnostics: readonly Diagnostic[];
  /** The number of the build in which part of it last ran, and the reason. */
  readonly build: number;
  readonly cause: Cause;
}

/** A file to publish that an asset was turned into. */
export interface OutputFile {
  /** Relative to the project. */
  readonly path: string;
  readonly hash: string;
  readonly bytes: number;
  /** Its gzip size, once it is known. */
  gzipBytes: number | undefined;
  /** The sources of the asset. */
  readonly origins: readonly string[];
  /** The encoding of a compressed file. */
  readonly encoding?: Encoding;
}

/** The files that an asset was turned into for publishing. */
export interface EmittedOutputs {
  /** `inputDigest` of the asset. */
  readonly input: Digest;
  readonly outputs: readonly OutputFile[];
  /** Its references, for formats that can contain some. */
  readonly references?: FileReferences | undefined;
  /** What pages can show in place of a picture. */
  readonly variants?: PictureVariants;
}

/** The state of a pipeline between builds. */
export interface PipelineMemo {
  /** `memoKey` of the plan that it was built by. */
  readonly key: string;
  readonly units: ReadonlyMap<UnitId, UnitMemo>;
  /** By the ids of assets. */
  readonly emitted: ReadonlyMap<string, EmittedOutputs>;
}
