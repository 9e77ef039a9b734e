import type { Diagnostic, Place } from '../diagnostics/index.js';
import type { ConstantValue } from '../config/settings.js';
import type { Asset } from './asset.js';

/** The project settings that steps can depend on. */
export interface StepEnvironment {
  /** Resolved target browsers, such as `safari 17.4`. */
  readonly browsers: readonly string[];
  readonly constants: Readonly<Record<string, ConstantValue>>;
  /** What the constant `process.env.NODE_ENV` says, by which packages choose files. */
  readonly environment: 'development' | 'production';
  /** True if steps have to create source maps. */
  readonly maps: boolean;
  /** True if a later step resolves the imports of scripts and style sheets. */
  readonly isLinked: boolean;
  /** The name of the profile. */
  readonly profile: string;
  /** The names of the profile and of those that it extends, and of all profiles of the project. */
  readonly profiles: { readonly lineage: readonly string[]; readonly all: readonly string[] };
  /** Constants whose values must not reach any output, with their environment variables. */
  readonly secrets: readonly { readonly name: string; readonly variable: string }[];
}

/** A command that a step runs in the project folder. */
export interface Command {
  /** The program, as a path relative to the project or a name, and its arguments. */
  readonly words: readonly string[];
  /** The bytes on its standard input. */
  readonly input: Uint8Array;
  /** Files that it gets instead, by path in a folder. */
  readonly files?: ReadonlyMap<string, Uint8Array>;
  /** What `{in}` in words stands for: the path of one of these files, or an empty text for their folder. */
  readonly inputPath?: string;
  /** What `{out}` in words stands for: the path of a file in an empty folder, or an empty text for that folder. */
  readonly outputPath?: string;
  /** Environment variables besides those of this process. */
  readonly environment: Readonly<Record<string, string>>;
  /** In seconds. */
  readonly timeLimit: number;
  /** True if what it writes to standard output is shown, since it is not a result. */
  readonly isShown: boolean;
  /** True if what is shown is also kept in a file. */
  readonly isLogged?: boolean;
}

/** The end of a command. */
export interface CommandResult {
  /** What it wrote to standard output, if `{out}` stands for nothing. */
  readonly output: Uint8Array;
  /** The files that it wrote below the folder of `{out}`, by path. */
  readonly files: ReadonlyMap<string, Uint8Array>;
  /** The reason why it failed: no such program, an exit code, a signal, the time limit. */
  readonly failure?: { readonly kind: 'missing' | 'failed' | 'late'; readonly how: string };
  /** The last lines that it wrote to standard error, and to standard output if that is no result. */
  readonly lastLines: readonly string[];
}

/** A setting that a step can depend on. */
export type SettingName = keyof StepEnvironment;

/**
 * The only access of a step to files, settings and the environment. Everything it reads becomes part of the trace of its
 * job, missing files included. All paths are relative to the project, with `/`.
 */
export interface StepContext {
  /** The settings that the step has declared for its assets; reading another one is an error. */
  readonly settings: StepEnvironment;
  /** The project folder, absolute: only for checkers, which read files themselves. */
  readonly root: string;
  /** Aborted when the result is no longer needed. */
  readonly signal: AbortSignal;
  /** The bytes of a file; undefined if it does not exist. */
  read(path: string): Uint8Array | undefined;
  /**
   * Makes files part of the trace as they are now, after a command has written them.
   *
   * @returns those that the glob matches
   */
  trackWritten(glob: string): readonly string[];
  /** Makes a file part of the trace that a checker has read by itself, wherever it is. */
  track(path: string): void;
  /** Reports whether a file exists. */
  exists(path: string): boolean;
  /** The files that a glob matches, in order. */
  list(glob: string): readonly string[];
  /**
   * The file that an import specifier resolves to by the rules of Node.js; undefined if there is none, false if its package
   * leaves it out in browsers.
   *
   * @param from the importing file
   */
  resolve(
    specifier: string,
    from: string,
    options?: {
      /** `require` for a specifier that a CommonJS module requires, `style` for that of `@import` in a style sheet. */
      readonly kind?: 'import' | 'require' | 'style';
      /** Conditions of `exports` and `imports` besides the usual ones of browsers. */
      readonly conditions?: readonly string[];
    },
  ): string | false | undefined;
  /**
   * Loads a source as the earlier steps of this pipeline produce it; undefined if the file does not exist, or if one of
   * these steps has reported an error. The reads of
   * its jobs are part of the trace.
   */
  load(source: string): Promise<Asset | undefined>;
  /** Reports whether a pipeline of the project certainly writes a file at a path relative to this pipeline's `to`. */
  publishes(path: string): boolean;
  /** An environment variable; undefined if it is not set. */
  env(name: string): string | undefined;
  /** Runs a command, without a shell, and shows what it writes to standard error. */
  execute(command: Command): Promise<CommandResult>;
  /**
   * Imports a module of the project in this process.
   *
   * @param contents the hashes of the module and of everything that it imports, by path
   */
  importModule(path: string, contents: ReadonlyMap<string, string>): Promise<object>;
  /**
   * Loads an installed package in this process, as Node.js finds it from a file: its `module.exports` or default export.
   *
   * @param from the file that needs it
   * @param contents the hash of its package.json, by path
   */
  importPackage(name: string, from: string, contents: ReadonlyMap<string, string>): Promise<unknown>;
  /** The file that an installed package is loaded from, absolute, as Node.js finds it from a file; undefined if there is none. */
  packageEntry(name: string, from: string): string | undefined;
  /** The place in a file of the project at which an error was thrown, from 1; undefined if it was elsewhere. */
  placeOfError(error: unknown): { readonly file: string; readonly line: number; readonly column: number } | undefined;
  /** Adds an asset to those that the step returns. */
  emit(asset: Asset): void;
  /** Reports a diagnostic. An error prevents the pipeline from publishing. */
  report(diagnostic: Diagnostic): void;
  /** The location in a source that a range of an asset's text comes from; 0-based offsets. */
  place(asset: Asset, text: string, start: number, end: number): Place;
  /** Returns a resource that is created once per run, such as a compiler process, and closed at its end. */
  resource<T extends Resource>(name: string, make: () => Promise<T>): Promise<T>;
}

/** A resource that lives as long as a run. */
export interface Resource {
  close(): Promise<void> | void;
}
