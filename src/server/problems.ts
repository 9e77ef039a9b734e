import { hiddenColumns, type Diagnostic } from '../core/diagnostics/index.js';
import type { PipelineReport } from '../core/build/report.js';
import type { SessionEvent } from '../core/watch/session-event.js';
import type { FrameLine, Problem } from './message.js';

/** The current problems, collected from the events of a session. */
export class Problems {
  /** The diagnostics of each pipeline whose last build had errors. */
  readonly #pipelines = new Map<string, readonly Diagnostic[]>();
  /** The problems of the project file and of the plan. */
  #projectFile: readonly Diagnostic[] = [];
  #project: readonly Diagnostic[] = [];
  #round: Diagnostic[] = [];
  /** The names of pipelines in the order of the plan. */
  #order: readonly string[] = [];

  take(event: SessionEvent): void {
    switch (event.event) {
      case 'build-started':
        this.#round = [];
        this.#project = [];
        this.#order = event.pipelines;
        for (const name of this.#pipelines.keys()) if (!event.pipelines.includes(name)) this.#pipelines.delete(name);
        return;
      case 'diagnostic':
        this.#round.push(event.diagnostic);
        return;
      case 'pipeline-done':
        this.#take(event.report);
        return;
      case 'config-error':
        if (event.isProjectFile) this.#projectFile = event.diagnostics;
        else this.#project = event.diagnostics;
        return;
      case 'recovered':
        if (event.isProjectFile) this.#projectFile = [];
        return;
      default:
        return;
    }
  }

  #take({ name, state }: PipelineReport): void {
    const own = this.#round.filter((one) => one.pipeline === name);
    // A pipeline that was built may have errors that keep nothing from being published.
    const found = state === 'built' ? own.filter((one) => one.isAdvisory === true) : own;
    if (found.length > 0 && (state === 'built' || state === 'failed')) this.#pipelines.set(name, found);
    else if (state === 'built') this.#pipelines.delete(name);
  }

  /** All current problems, errors first. */
  list(): Problem[] {
    const ofPipelines = this.#order.flatMap((name) => this.#pipelines.get(name) ?? []);
    const all = [...this.#projectFile, ...this.#project, ...ofPipelines];
    const errors = all.filter((one) => one.severity === 'error');
    return [...errors, ...all.filter((one) => one.severity !== 'error')].map(problemOf);
  }
}

function problemOf(one: Diagnostic): Problem {
  const { severity, code, message, hint, pipeline, file, range } = one;
  const place =
    file !== undefined && range ? `${file}:${String(range.start.line)}:${String(range.start.column)}` : file;
  return {
    severity,
    code,
    message,
    hint,
    ...(pipeline !== undefined && { pipeline }),
    ...(one.isAdvisory && { isAdvisory: true }),
    ...(place !== undefined && { place }),
    ...(one.frame && { frame: frameLines(one) }),
  };
}

function frameLines({ frame, range }: Diagnostic): FrameLine[] {
  const { firstLine, lines } = frame!;
  const { start, end } = range!;
  const hidden = hiddenColumns(range!);
  return lines.map((text, index) => {
    const number = firstLine + index;
    if (number !== start.line) return { number, text };
    const from = start.column - 1 - hidden;
    const to = end.line === start.line ? end.column - 1 - hidden : text.length;
    return { number, text, marked: [from, Math.max(to, from + 1)] };
  });
}
