import type { Diagnostic } from '../../core/diagnostics/index.js';
import type { BuildEvent } from '../../core/engine/build.js';
import type { Plan, PlannedPipeline } from '../../core/project/plan.js';
import type { Reporter } from '../reporter.js';
import type { Terminal } from '../terminal/terminal.js';
import { describePlan } from '../terminal/plan.js';

/** Version of the events; raised when a program that reads them has to change. */
const version = 1;

/** JSON Lines: one event a line, all of them on standard output, so that their order stays. */
export class JsonReporter implements Reporter {
  constructor(private readonly terminal: Terminal) {}

  event(event: BuildEvent): void {
    if (event.event === 'diagnostic') this.diagnostics([event.diagnostic]);
    else if (event.event === 'build-done') {
      const { diagnostics, pipelines, ...report } = event.report;
      this.#write({
        event: 'build-done',
        ...report,
        pipelines: pipelines.map((one) => one.name),
        diagnostics: diagnostics.length,
      });
    } else if (event.event === 'pipeline-done') this.#write({ event: 'pipeline-done', ...event.report });
    else this.#write(event);
  }

  diagnostics(diagnostics: readonly Diagnostic[]): void {
    for (const one of diagnostics) this.#write({ event: 'diagnostic', ...one, frame: undefined, detail: undefined });
  }

  plan(plan: Plan, pipelines: readonly PlannedPipeline[]): void {
    this.#write({ event: 'plan', profile: plan.profile.name, browsers: plan.browsers });
    for (const pipeline of pipelines) this.#write({ event: 'pipeline', ...describePlan(pipeline) });
  }

  cleaned(removed: readonly string[]): void {
    this.#write({ event: 'cleaned', removed });
  }

  created(files: readonly string[], next: readonly string[]): void {
    this.#write({ event: 'created', files, next });
  }

  text(text: string): void {
    this.terminal.print(text);
  }

  end(): void {
    // Every line is written when it happens.
  }

  #write(event: object): void {
    this.terminal.print(`${JSON.stringify({ version, ...event })}\n`);
  }
}
