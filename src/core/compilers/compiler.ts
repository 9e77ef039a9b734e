import type { Asset } from '../assets/asset.js';
import type { StepContext } from '../assets/context.js';

/** Options of the step `compile` that compilers take. */
export interface CompilerOptions {
  readonly loadPaths: readonly string[];
}

/** The adapter to a real compiler of one language. */
export interface Compiler {
  readonly name: string;
  /** Extensions that it takes, in lower case, with the extension that comes out. */
  readonly extensions: Readonly<Record<string, string>>;
  /** Whether a file of these extensions is only followed, never a source of its own. */
  isPartial(path: string): boolean;
  /**
   * Compiles one asset.
   *
   * @param path where the result goes, relative to the pipeline's `to`
   * @throws DiagnosticError with the mistakes of the user's file
   */
  compile(asset: Asset, path: string, options: CompilerOptions, context: StepContext): Promise<Asset>;
}
