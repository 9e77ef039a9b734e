import type { ConstantValue } from '../../config/settings.js';

/** An asset that a function of `apply` gets. */
export interface AppliedAsset {
  /** Relative to the pipeline's `to`. */
  readonly path: string;
  /** Its sources, relative to the project. */
  readonly origins: readonly string[];
  readonly bytes: Uint8Array;
  /** Its text; reading it throws if it is not UTF-8. */
  readonly text: string;
  /** True if it has a source map, which stays exact if the function returns one from its text to this text. */
  readonly hasMap: boolean;
}

/** A file that a function of `apply` returns. */
export interface AppliedFile {
  /** Relative to the pipeline's `to`; by default that of the asset. */
  readonly path?: string;
  readonly text?: string;
  readonly bytes?: Uint8Array;
  /** A source map from the text to that of the asset (ECMA-426). */
  readonly map?: object;
}

/** A problem that a function of `apply` has found. */
export interface AppliedFinding {
  /** By default `error`. */
  readonly severity?: 'error' | 'warning';
  readonly message: string;
  /** Where it is: a file, and a place in it, from 1. */
  readonly file?: string;
  readonly line?: number;
  readonly column?: number;
}

/** What a function of `apply` may return: new content, files, `null` to drop the asset, or nothing to keep it. */
export type ApplyResult = string | Uint8Array | AppliedFile | readonly AppliedFile[] | null | undefined;

/**
 * What a function of `apply` can use. The tool knows everything that the function reads through it, and calls the function
 * again when any of it changes. Paths are relative to the project.
 */
export interface ApplyContext {
  /** The options in the project file. */
  readonly options: Readonly<Record<string, unknown>>;
  readonly settings: {
    /** The name of the profile. */
    readonly profile: string;
    /** Target browsers, such as `safari 17.4`. */
    readonly browsers: readonly string[];
    readonly constants: Readonly<Record<string, ConstantValue>>;
  };
  /** Aborted when the result is no longer needed. */
  readonly signal: AbortSignal;
  /** The bytes of a file; undefined if it does not exist. */
  read(path: string): Uint8Array | undefined;
  exists(path: string): boolean;
  /** The files that a glob matches, in order. */
  list(glob: string): readonly string[];
  /** The file that an import specifier leads to; undefined if there is none. */
  resolve(specifier: string, from: string): string | false | undefined;
  /** An environment variable. */
  env(name: string): string | undefined;
  /** Adds a file to those that the function returns. */
  emit(file: AppliedFile & { readonly path: string }): void;
  /** Reports a finding. If it is an error, nothing of the pipeline is published. */
  report(finding: AppliedFinding): void;
}

/** A function of `apply` that is called with each asset. */
export type AssetFunction = (asset: AppliedAsset, context: ApplyContext) => ApplyResult | Promise<ApplyResult>;

/** A function of `apply` that is called once, with all assets. */
export type AssetListFunction = (
  assets: readonly AppliedAsset[],
  context: ApplyContext,
) => ApplyResult | Promise<ApplyResult>;

/** Gives a function for `apply` its types. */
export const assetFunction = (call: AssetFunction): AssetFunction => call;

/** Gives a function for `apply` with `gather: true` its types. */
export const assetListFunction = (call: AssetListFunction): AssetListFunction => call;
