import type { SettingsClass } from './field.js';

/** Files whose names are only known after a step has run: those in a folder that match a glob. */
export interface FolderClaim {
  readonly within: string;
  /** Relative to the folder. */
  readonly pattern: string;
}

/** A file that a step or pipeline is going to write: an exact path, or files in a folder. */
export type Claim = string | FolderClaim;

/** The part of a step that the project file and the plan need; `Step` extends it. */
export interface StepDefinition {
  /** The name as written in the project file. */
  readonly name: string;
  /** One sentence for users. */
  readonly doc: string;
  /** Reports whether it processes all assets of the pipeline together. */
  gathers(options: object): boolean;
  /** Reports whether it passes all assets on unchanged, so that those that a later step loads need not go through it. */
  passesOn?(options: object): boolean;
  /** True if it can run in a pipeline without sources. */
  readonly isTask?: boolean;
  /** For a step that runs programs: the globs of files in the project that these write by themselves. */
  writesSources?(options: object): readonly string[];
  /** Reports whether it runs a source as code, by the path of that. */
  runsSource?(path: string): boolean;
  /** For a step that only reports what it finds: whether errors keep the build from publishing anything. */
  holds?(options: object, profile: string): boolean;
  /** Reports whether a task has to run in every build, because nothing tells whether its result would be the same. */
  runsAlways?(options: object): boolean;
  /** True if it loads other sources of the pipeline through its context. */
  readonly loads?: boolean;
  /** True if scripts that it has made only have syntax that target browsers know, or that it has warned of. */
  readonly checksSyntax?: boolean;
  /** True if pages have to offer the variants of pictures that it makes. */
  readonly makesVariants?: boolean;
  /** True if what it makes of a picture may have another size. */
  readonly resizes?: boolean;
  /** The import specifiers that scripts may keep, because the page resolves them. */
  externals?(options: object): readonly string[];
  /** Reports whether it changes white space in pages, although style sheets may show it. */
  assumesCollapsedSpace?(options: object): boolean;
  /** Its options, without those of all steps. */
  readonly options: SettingsClass;
  /** The option that the short form `name: value` sets, if there is one. */
  readonly mainOption?: string;
  /**
   * The files that result from these paths, in order, as known before the step runs. A path may end in a pattern such
   * as `*.js`, for assets with unknown names.
   */
  claims(paths: readonly string[], options: object): readonly Claim[];
}

/** The steps there are, and which files are never sources of their own. */
export interface StepCatalogue {
  readonly steps: readonly StepDefinition[];
  /** Reports whether a file is a partial. */
  isPartial(path: string): boolean;
}
