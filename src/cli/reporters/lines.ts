import { formatLine, type Diagnostic } from '../../core/diagnostics/index.js';
import type { PipelineForecast } from '../../core/explain/forecast.js';
import type { OutputReasons, SourceReach } from '../../core/explain/why.js';
import type { Plan } from '../../core/plan/plan.js';
import { describeClaim } from '../../core/plan/claims.js';
import type { PlannedPipeline } from '../../core/plan/pipeline.js';
import type { BrowserCost } from '../../core/languages/css/prefix/cost.js';
import type { ServerEvent } from '../../server/event.js';
import type { Reporter } from '../reporter.js';
import type { Terminal } from '../terminal/terminal.js';

/** One diagnostic a line, for editors and CI systems; results as lines of plain names. */
export class LinesReporter implements Reporter {
  readonly hasKeys = false;
  /** In a session, unchanged outputs would only be repeated. */
  #isSession = false;

  constructor(
    private readonly terminal: Terminal,
    private readonly quiet: boolean,
  ) {}

  event(event: ServerEvent): void {
    if (event.event === 'diagnostic') this.diagnostics([event.diagnostic]);
    else if (event.event === 'config-error') this.diagnostics(event.diagnostics);
    else if (event.event === 'session-started') this.#isSession = true;
    else if (event.event === 'serving') this.#result(`serving\t${event.urls.join('\t')}`);
    // These two events tell editors that the diagnostics of a build are complete.
    else if (event.event === 'build-started' && this.#isSession) this.#result('building');
    else if (event.event === 'waiting') this.#result('waiting');
    else if (event.event === 'pipeline-done') {
      for (const { path, state } of event.report.outputs)
        if (!this.#isSession || state !== 'unchanged') this.#result(`${state}\t${path}`);
      this.cleaned(event.report.removed);
    } else if (event.event === 'build-done') this.cleaned(event.report.removed);
  }

  diagnostics(diagnostics: readonly Diagnostic[]): void {
    for (const one of diagnostics) this.terminal.printError(`${formatLine(one)}\n`);
  }

  again(diagnostics: readonly Diagnostic[]): void {
    this.diagnostics(diagnostics);
  }

  plan(_: Plan, pipelines: readonly PlannedPipeline[]): void {
    for (const { name, sources, claims } of pipelines) {
      for (const { path } of sources) this.#result(`${name}\tsource\t${path}`);
      for (const path of claims.map(describeClaim)) this.#result(`${name}\toutput\t${path}`);
    }
  }

  browsers(_: string, { features }: BrowserCost): void {
    for (const { kind, name, spelling, browsers } of features)
      this.#result(`${kind}\t${name}\t${spelling}\t${browsers.join(', ')}`);
  }

  forecast(_: string, forecasts: readonly PipelineForecast[]): void {
    for (const { name, run, write, mayWrite, remove, mayRemove } of forecasts) {
      for (const { step, assets } of run) this.#result(`${name}\trun\t${step}\t${assets.join(' ')}`);
      for (const path of write) this.#result(`${name}\twrite\t${path}`);
      for (const path of mayWrite) this.#result(`${name}\tmay write\t${path}`);
      for (const path of remove) this.#result(`${name}\tremove\t${path}`);
      for (const path of mayRemove) this.#result(`${name}\tmay remove\t${path}`);
    }
  }

  why(explanation: OutputReasons | SourceReach): void {
    if (explanation.kind === 'source') for (const { path } of explanation.outputs) this.#result(path);
    else {
      const files = [...explanation.sources, ...explanation.steps.flatMap((step) => step.files)];
      for (const path of new Set(files.map((file) => file.path))) this.#result(path);
    }
  }

  cleaned(removed: readonly string[]): void {
    for (const path of removed) this.#result(`removed\t${path}`);
  }

  fixed(paths: readonly string[]): void {
    for (const path of paths) this.#result(`fixed\t${path}`);
  }

  created(files: readonly string[], changed: readonly string[]): void {
    for (const file of [...files, ...changed]) this.#result(`written\t${file}`);
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

  #result(line: string): void {
    if (!this.quiet) this.terminal.print(`${line}\n`);
  }
}
