import type { Asset } from '../assets/asset.js';
import type { StepContext } from '../assets/context.js';
import type { ToolName } from '../assets/package-versions.js';

/** Options of the step `compile` that compilers take. */
export interface CompilerOptions {
  readonly loadPaths: readonly string[];
  /** The time limit for one file in a compiler process, in seconds. */
  readonly timeLimit: number;
  /** The global object that gets templates as functions, with dots; undefined for modules. */
  readonly templates?: string;
}

/**
 * Compiles one asset.
 *
 * @param path the path of the result, relative to the pipeline's `to`
 * @throws DiagnosticError with the errors in the user's file
 */
export type Compile = (
  asset: Asset,
  path: string,
  options: CompilerOptions,
  context: StepContext,
) => Promise<Asset> | Asset;

/** The adapter to a real compiler of one language. */
export interface Compiler {
  /** The extensions that it reads, in lower case, with those that it writes. */
  readonly extensions: Readonly<Record<string, string>>;
  /** The packages whose versions affect the result. */
  readonly toolVersions: readonly ToolName[];
  /** True if it runs in this process. */
  readonly runsInProcess: boolean;
  /** Reports whether files of these extensions are only dependencies, never sources. */
  isPartial(path: string): boolean;
  /** Loads the compiler on demand: compilers are large, and a build with nothing to do needs none. */
  load(): Promise<Compile>;
  /** Gets ready to compile at once, while there is time. */
  warmUp(context: Pick<StepContext, 'resource'>): Promise<void>;
}
