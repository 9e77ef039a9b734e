import type { Diagnostic } from '../../core/diagnostics/index.js';
import type { PipelineForecast } from '../../core/explain/forecast.js';
import type { OutputReasons, SourceReach } from '../../core/explain/why.js';
import type { Plan } from '../../core/plan/plan.js';
import type { PlannedPipeline } from '../../core/plan/pipeline.js';
import type { BrowserCost } from '../../core/languages/css/prefix/cost.js';
import type { ServerEvent } from '../../server/event.js';
import type { Reporter } from '../reporter.js';
import { safeToPrint } from '../safe-text.js';

/** Wraps a reporter that writes text: escapes everything that comes from projects and requests. */
export class SafeReporter implements Reporter {
  constructor(private readonly reporter: Reporter) {}

  get hasKeys(): boolean {
    return this.reporter.hasKeys;
  }

  event(event: ServerEvent): void {
    this.reporter.event(safeToPrint(event));
  }

  diagnostics(diagnostics: readonly Diagnostic[]): void {
    this.reporter.diagnostics(safeToPrint(diagnostics));
  }

  again(diagnostics: readonly Diagnostic[]): void {
    this.reporter.again(safeToPrint(diagnostics));
  }

  plan(plan: Plan, pipelines: readonly PlannedPipeline[]): Promise<void> | void {
    return this.reporter.plan(plan, safeToPrint(pipelines));
  }

  browsers(profile: string, cost: BrowserCost): Promise<void> | void {
    return this.reporter.browsers(safeToPrint(profile), safeToPrint(cost));
  }

  forecast(profile: string, forecasts: readonly PipelineForecast[]): Promise<void> | void {
    return this.reporter.forecast(safeToPrint(profile), safeToPrint(forecasts));
  }

  why(explanation: OutputReasons | SourceReach): Promise<void> | void {
    return this.reporter.why(safeToPrint(explanation));
  }

  cleaned(removed: readonly string[]): void {
    this.reporter.cleaned(safeToPrint(removed));
  }

  fixed(paths: readonly string[]): void {
    this.reporter.fixed(safeToPrint(paths));
  }

  created(files: readonly string[], changed: readonly string[], next: readonly string[]): void {
    this.reporter.created(safeToPrint(files), safeToPrint(changed), safeToPrint(next));
  }

  proposed(yaml: string): void {
    this.reporter.proposed(yaml);
  }

  ring(): void {
    this.reporter.ring();
  }

  /** A text of the program's own. */
  text(text: string): void {
    this.reporter.text(text);
  }

  end(exitCode: number): void {
    this.reporter.end(exitCode);
  }
}
