import type { Command as CommanderCommand } from 'commander';
import type { Reporter } from '../reporter.js';

/** Options that every command takes. */
export interface SharedOptions {
  readonly config?: string;
  readonly profile?: string;
  readonly format?: 'pretty' | 'lines' | 'json' | 'sarif';
  readonly quiet?: boolean;
  readonly verbose?: boolean;
  readonly color?: boolean;
}

/** One call of a command. */
export interface Call<Options extends object = object> {
  readonly args: readonly unknown[];
  readonly options: SharedOptions & Options;
  readonly reporter: Reporter;
  /** Aborted when somebody interrupts the program. */
  readonly signal: AbortSignal;
  /** Aborted when nobody reads standard output any more. */
  readonly unread: AbortSignal;
}

/** A command that people type: one file in this folder each. */
export interface CliCommand<Options extends object = object> {
  readonly name: string;
  readonly description: string;
  /** True if it goes on until it is ended. */
  readonly isSession?: boolean;
  /** Adds its own arguments and options. */
  setUp(command: CommanderCommand): void;
  /** Does it; returns the exit code. Mistakes of the user are thrown as DiagnosticError. */
  run(call: Call<Options>): Promise<number> | number;
}
