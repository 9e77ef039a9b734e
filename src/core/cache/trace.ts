import type { LinkedPart } from '../assets/asset.js';
import type { Diagnostic } from '../diagnostics/index.js';
import type { PictureVariants } from '../languages/html/picture-variants.js';
import type { FileReferences } from '../languages/references/reference.js';

/**
 * One lookup of a job and its result.
 *
 * - `file`: the content hash; `null` if the file did not exist.
 * - `presence`: whether the file existed.
 * - `list`: the hash of the list of files that matched a glob.
 * - `claim`: whether a pipeline certainly writes a file with this path.
 * - `env`: the hash of an environment variable; `null` if it was not set.
 */
export type Read =
  | readonly [kind: 'file', path: string, seen: string | null]
  | readonly [kind: 'presence', path: string, seen: boolean]
  | readonly [kind: 'claim', path: string, seen: boolean]
  | readonly [kind: 'list', glob: string, seen: string]
  | readonly [kind: 'env', name: string, seen: string | null];

/** An asset without its bytes: they, and its source map, are stored by their content hashes. */
export interface AssetRef {
  readonly id: string;
  readonly path: string;
  readonly hash: string;
  readonly origins: readonly string[];
  readonly isPristine: boolean;
  /** The content hash of its source map, as JSON. */
  readonly map?: string;
  /** What its text refers to, if the step that wrote it knows. */
  readonly references?: FileReferences;
  /** The modules that are linked into it. */
  readonly linked?: readonly LinkedPart[];
  /** What pages can show in its place, for pictures. */
  readonly variants?: PictureVariants;
}

/** Stands for the hash of content that is only known after a job has run, in forecasts. */
export const unknownHash = '?';

/**
 * The files that a job read, and its results. A job is skipped if its key is known and every file in its trace is
 * unchanged.
 */
export interface Trace {
  readonly reads: readonly Read[];
  readonly assets: readonly AssetRef[];
  readonly diagnostics: readonly Diagnostic[];
  /** True if some diagnostic would point further with source maps. */
  readonly needsSourceMap: boolean;
}
