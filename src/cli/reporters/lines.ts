import { formatLine, type Diagnostic } from '../../core/diagnostics/index.js';
import type { BuildEvent } from '../../core/engine/build.js';
import type { Plan, PlannedPipeline } from '../../core/project/plan.js';
import type { Reporter } from '../reporter.js';
import type { Terminal } from '../terminal/terminal.js';

/** One diagnostic a line, for editors and CI systems; results as lines of plain names. */
export class LinesReporter implements Reporter {
  constructor(
    private readonly terminal: Terminal,
    private readonly quiet: boolean,
  ) {}

  event(event: BuildEvent): void {
    if (event.event === 'diagnostic') this.diagnostics([event.diagnostic]);
    else if (event.event === 'pipeline-done') {
      for (const { path, state } of event.report.outputs) this.#result(`${state}\t${path}`);
      for (const path of event.report.removed) this.#result(`removed\t${path}`);
    }
  }

  diagnostics(diagnostics: readonly Diagnostic[]): void {
    for (const one of diagnostics) this.terminal.tell(`${formatLine(one)}\n`);
  }

  plan(_: Plan, pipelines: readonly PlannedPipeline[]): void {
    for (const { name, sources, outputs } of pipelines) {
      for (const { path } of sources) this.#result(`${name}\tsource\t${path}`);
      for (const path of outputs) this.#result(`${name}\toutput\t${path}`);
    }
  }

  cleaned(removed: readonly string[]): void {
    for (const path of removed) this.#result(`removed\t${path}`);
  }

  created(files: readonly string[]): void {
    for (const file of files) this.#result(`written\t${file}`);
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
