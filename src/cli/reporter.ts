import type { Diagnostic } from '../core/diagnostics/index.js';
import type { PipelineForecast } from '../core/engine/forecast.js';
import type { OutputReasons, SourceReach } from '../core/engine/why.js';
import type { Plan, PlannedPipeline } from '../core/project/plan.js';
import type { BrowserCost } from '../core/styles/prefix/cost.js';
import type { ServerEvent } from '../server/event.js';
import type { SharedOptions } from './commands/command.js';
import { JsonReporter } from './reporters/json.js';
import { LinesReporter } from './reporters/lines.js';
import { PrettyReporter } from './reporters/pretty.js';
import { SarifReporter } from './reporters/sarif.js';
import type { Terminal } from './terminal/terminal.js';

/** Tells people, editors or programs what a command does. */
export interface Reporter {
  /** What a build, a session or the server tells. */
  event(event: ServerEvent): void;
  diagnostics(diagnostics: readonly Diagnostic[]): void;
  /** What was wrong in the last round of a session, told once more. */
  again(diagnostics: readonly Diagnostic[]): void;
  /** Whether somebody can press keys and see what comes of it. */
  readonly hasKeys: boolean;
  /** The result of `list`. */
  plan(plan: Plan, pipelines: readonly PlannedPipeline[]): void;
  /** The result of `list --browsers`. */
  browsers(profile: string, cost: BrowserCost): void;
  /** The result of `build --dry-run`. */
  forecast(profile: string, forecasts: readonly PipelineForecast[]): void;
  /** The result of `why`. */
  why(explanation: OutputReasons | SourceReach): void;
  /** The result of `clean`. */
  cleaned(removed: readonly string[]): void;
  /** The result of `init`: files written, and what to do next. */
  created(files: readonly string[], next: readonly string[]): void;
  /** A result that is a text of its own. */
  text(text: string): void;
  /** Nothing more comes; the program ends with this code. */
  end(exitCode: number): void;
}

/**
 * The reporter for `--format`.
 *
 * @param version that of the program
 */
export function createReporter(options: SharedOptions, terminal: Terminal, version: string): Reporter {
  switch (options.format) {
    case 'json':
      return new JsonReporter(terminal);
    case 'lines':
      return new LinesReporter(terminal, options.quiet ?? false);
    case 'sarif':
      return new SarifReporter(terminal, version);
    default:
      return new PrettyReporter(terminal, options);
  }
}
