import type { Diagnostic } from '../diagnostics/index.js';

/**
 * One thing that a job looked at, and what it saw there.
 *
 * - `file`: the content hash; `null` when it was looked for and not found.
 * - `presence`: whether there was such a file.
 * - `list`: the hash of the list of files that a glob matched.
 * - `env`: the hash of an environment variable; `null` when it was not set.
 */
export type Read =
  | readonly [kind: 'file', path: string, seen: string | null]
  | readonly [kind: 'presence', path: string, seen: boolean]
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
}

/** The files that a job read and its results. The job is skipped when its key is known and every file in its trace is unchanged. */
export interface Trace {
  readonly reads: readonly Read[];
  readonly assets: readonly AssetRef[];
  readonly diagnostics: readonly Diagnostic[];
  /** True if some diagnostic would point further with source maps. */
  readonly needsSourceMap: boolean;
}
