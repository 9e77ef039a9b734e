import type { Diagnostic } from '../core/diagnostics/index.js';
import type { PipelineForecast } from '../core/explain/forecast.js';
import type { OutputReasons, SourceReach } from '../core/explain/why.js';
import type { Plan } from '../core/plan/plan.js';
import type { PlannedPipeline } from '../core/plan/pipeline.js';
import type { BrowserCost } from '../core/languages/css/prefix/cost.js';
import type { ServerEvent } from '../server/event.js';

/** Reports the progress of a command to people, editors or programs. */
export interface Reporter {
  /** An event of a build, a session or the server. */
  event(event: ServerEvent): void;
  diagnostics(diagnostics: readonly Diagnostic[]): void;
  /** Repeats the problems of the last round of a session. */
  again(diagnostics: readonly Diagnostic[]): void;
  /** True if the user can press keys and see their effect. */
  readonly hasKeys: boolean;
  /** The result of `list`. */
  plan(plan: Plan, pipelines: readonly PlannedPipeline[]): Promise<void> | void;
  /** The result of `list --browsers`. */
  browsers(profile: string, cost: BrowserCost): Promise<void> | void;
  /** The result of `build --dry-run`. */
  forecast(profile: string, forecasts: readonly PipelineForecast[]): Promise<void> | void;
  /** The result of `why`. */
  why(explanation: OutputReasons | SourceReach): Promise<void> | void;
  /** The result of `clean`. */
  cleaned(removed: readonly string[]): void;
  /** The sources that `build --fix` has changed. */
  fixed(paths: readonly string[]): void;
  /** The project file that `init` proposes, before it is written. */
  proposed(yaml: string): void;
  /** The result of `init`: the files that it created, files of the user that it changed, and next steps. */
  created(files: readonly string[], changed: readonly string[], next: readonly string[]): void;
  /** Rings the bell of the terminal. */
  ring(): void;
  /** A result that is a complete text. */
  text(text: string): void;
  /** The final event: the program ends with this code. */
  end(exitCode: number): void;
}
