import type { Command as CommanderCommand } from 'commander';
import type { Reporter } from '../reporter.js';

/** Options of all commands. */
export interface SharedOptions {
  readonly config?: string;
  /** The profiles that were named, each once. */
  readonly profiles: readonly string[];
  readonly format?: 'pretty' | 'lines' | 'json' | 'sarif';
  readonly quiet?: boolean;
  readonly verbose?: boolean;
  readonly color?: boolean;
  /** True to show the sizes of outputs in a session. */
  readonly sizes?: boolean;
}

/** One call of a command. */
export interface Call<Options extends object = object> {
  readonly args: readonly unknown[];
  readonly options: SharedOptions & Options;
  readonly reporter: Reporter;
  /** Loads all commands. */
  readonly loadCommands: () => Promise<readonly CliCommand<never>[]>;
  /** Aborted when the user interrupts the program. */
  readonly signal: AbortSignal;
  /** Aborted when standard output is closed. */
  readonly unread: AbortSignal;
}

/** A command that people type: one file in this folder each. */
export interface CliCommand<Options extends object = object> {
  readonly name: string;
  readonly description: string;
  /** Command lines, each with what it does. */
  readonly examples: readonly (readonly [line: string, meaning: string])[];
  /** True if it runs until it is stopped. */
  readonly isSession?: boolean;
  /** True if it works on several profiles, one after the other. */
  readonly takesProfiles?: boolean;
  /** Adds its own arguments and options. */
  setUp(command: CommanderCommand): void;
  /** Does it; returns the exit code. Mistakes of the user are thrown as DiagnosticError. */
  run(call: Call<Options>): Promise<number> | number;
}
