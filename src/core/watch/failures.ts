import type { PipelineReport } from '../build/report.js';

/** The parts of a project that had errors the last time: the project file, the plan, or pipelines. */
export class Failures {
  #isConfigInvalid = false;
  #isPlanInvalid = false;
  readonly #pipelines = new Set<string>();

  /** Reports whether the project file has errors. */
  get isConfigInvalid(): boolean {
    return this.#isConfigInvalid;
  }

  noteConfig(): void {
    this.#isConfigInvalid = true;
  }

  notePlan(): void {
    this.#isPlanInvalid = true;
  }

  /** Notes that the project file is valid; returns whether it had errors. */
  fixConfig(): boolean {
    const hadErrors = this.#isConfigInvalid;
    this.#isConfigInvalid = false;
    return hadErrors;
  }

  /** Notes that a plan was made; returns whether the last one had errors and nothing else of the project file has. */
  fixPlan(): boolean {
    const hadErrors = this.#isPlanInvalid;
    this.#isPlanInvalid = false;
    return hadErrors && !this.#isConfigInvalid;
  }

  /**
   * Records the states of pipelines after a build.
   *
   * @param isAborted reports whether the build of a pipeline was aborted, which leaves its state unchanged
   * @returns those that recovered from errors
   */
  notePipelines(reports: readonly PipelineReport[], isAborted: (name: string) => boolean): string[] {
    const recovered: string[] = [];
    for (const { name, state } of reports) {
      if (state === 'built' && this.#pipelines.delete(name)) recovered.push(name);
      else if (state !== 'built' && !isAborted(name)) this.#pipelines.add(name);
    }
    return recovered;
  }
}
