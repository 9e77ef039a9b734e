import type { Diagnostic } from '../../core/diagnostics/index.js';
import type { PipelineReport } from '../../core/build/report.js';
import type { PipelineForecast } from '../../core/explain/forecast.js';
import type { OutputReasons, SourceReach } from '../../core/explain/why.js';
import type { Plan } from '../../core/plan/plan.js';
import type { PlannedPipeline } from '../../core/plan/pipeline.js';
import type { BrowserCost } from '../../core/languages/css/prefix/cost.js';
import type { ServerEvent } from '../../server/event.js';
import type { Reporter } from '../reporter.js';
import { safeJson } from '../safe-text.js';
import type { Terminal } from '../terminal/terminal.js';
import { describePlan } from '../terminal/plan.js';

/** Version of the events; raised when a program that reads them has to change. */
const version = 1;

/** JSON Lines: one event per line, all on standard output, to preserve their order. */
export class JsonReporter implements Reporter {
  readonly hasKeys = false;
  #isSession = false;

  constructor(private readonly terminal: Terminal) {}

  event(event: ServerEvent): void {
    if (event.event === 'diagnostic') this.diagnostics([event.diagnostic]);
    else if (event.event === 'config-error') {
      this.#write({ ...event, diagnostics: event.diagnostics.length });
      this.diagnostics(event.diagnostics);
    } else if (event.event === 'build-done' || event.event === 'published') {
      const { diagnostics, pipelines, ...report } = event.report;
      this.#write({
        event: event.event,
        ...report,
        pipelines: pipelines.map((one) => one.name),
        diagnostics: diagnostics.length,
      });
    } else if (event.event === 'pipeline-done')
      this.#write({ event: 'pipeline-done', ...this.#shortened(event.report) });
    else {
      if (event.event === 'session-started') this.#isSession = true;
      this.#write(event);
    }
  }

  diagnostics(diagnostics: readonly Diagnostic[]): void {
    for (const one of diagnostics) this.#write({ event: 'diagnostic', ...one, frame: undefined, detail: undefined });
  }

  again(diagnostics: readonly Diagnostic[]): void {
    this.diagnostics(diagnostics);
  }

  plan(plan: Plan, pipelines: readonly PlannedPipeline[]): void {
    this.#write({ event: 'plan', profile: plan.profile.name, browsers: plan.browsers });
    for (const pipeline of pipelines) this.#write({ event: 'pipeline', ...describePlan(pipeline) });
  }

  browsers(profile: string, { features, ...cost }: BrowserCost): void {
    this.#write({ event: 'browsers', profile, ...cost });
    for (const feature of features) this.#write({ event: 'feature', ...feature });
  }

  forecast(profile: string, forecasts: readonly PipelineForecast[]): void {
    for (const one of forecasts) this.#write({ event: 'forecast', profile, ...one });
  }

  why({ kind, ...explanation }: OutputReasons | SourceReach): void {
    this.#write({ event: `why-${kind}`, ...explanation });
  }

  cleaned(removed: readonly string[]): void {
    this.#write({ event: 'cleaned', removed });
  }

  fixed(paths: readonly string[]): void {
    this.#write({ event: 'fixed', paths });
  }

  created(files: readonly string[], changed: readonly string[], next: readonly string[]): void {
    this.#write({ event: 'created', files, changed, next });
  }

  proposed(): void {
    // The file itself says it.
  }

  ring(): void {
    // For programs, there is nothing to hear.
  }

  text(text: string): void {
    this.terminal.print(text);
  }

  end(): void {
    // Every line is written when it happens.
  }

  /** In a session, unchanged outputs would only be repeated. */
  #shortened(report: PipelineReport): PipelineReport {
    if (!this.#isSession) return report;
    return { ...report, outputs: report.outputs.filter((output) => output.state !== 'unchanged') };
  }

  #write(event: object): void {
    this.terminal.print(`${safeJson({ version, ...event })}\n`);
  }
}
