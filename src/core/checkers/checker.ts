/** What a checker in its thread is asked. Paths are relative to the project. */
export interface CheckRequest {
  /** The project folder, absolute. */
  readonly root: string;
  /** The package of the checker, absolute; undefined for the one that this program comes with. */
  readonly package: string | undefined;
  /** The files to check, with their texts. */
  readonly files: readonly { readonly path: string; readonly text: string }[];
  /** The configuration file, if the checker does not find it itself. */
  readonly config?: string | undefined;
  /** True to ask for the text after all fixes. */
  readonly isFixing?: boolean;
}

/** What a checker has found, in its own words. */
export interface RawFinding {
  /** Absolute, or relative to the project. */
  readonly file?: string | undefined;
  /** From 1. */
  readonly line?: number | undefined;
  /** From 1. */
  readonly column?: number | undefined;
  readonly endLine?: number | undefined;
  readonly endColumn?: number | undefined;
  readonly rule?: string | undefined;
  readonly severity: 'error' | 'warning';
  readonly message: string;
  readonly url?: string | undefined;
}

/** The result of a check. */
export interface CheckResult {
  readonly findings: readonly RawFinding[];
  /** The files that it has read besides those that it was given, absolute. */
  readonly read: readonly string[];
  /** True if what it finds in a file depends on all scripts of the project. */
  readonly usesTypes?: boolean;
  /** The text of the last file after all fixes, if that was asked for and there are any. */
  readonly fixed?: string | undefined;
}

/** A checker as it is loaded in its thread; it keeps what it knows for the next request. */
export type Check = (request: CheckRequest) => Promise<CheckResult>;

/** The checkers that run in threads. */
export type CheckerName = 'types' | 'eslint' | 'stylelint';
