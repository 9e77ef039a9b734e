import type { BuildEvent } from '../../core/build/report.js';
import { formatTime } from './figures.js';

/** The time after which the end can be estimated, in milliseconds. */
const estimatedFrom = 1000;

/** The part of all jobs that has to be done before. */
const knownPart = 0.1;

/** How far a pipeline is. */
interface PipelineProgress {
  readonly sources: number;
  done: number;
  /** As far as it is known. */
  jobs: number;
}

/** Follows a build to say how far it is. */
export class BuildProgress {
  readonly #pipelines = new Map<string, PipelineProgress>();
  #started = 0;

  /** @param clock the time in milliseconds */
  constructor(private readonly clock: () => number = () => performance.now()) {}

  /** Takes note of an event; returns what is going on, if that is another thing than before. */
  text(event: BuildEvent): string | undefined {
    switch (event.event) {
      case 'build-started':
        this.#started = this.clock();
        this.#pipelines.clear();
        event.pipelines.forEach((name, at) =>
          this.#pipelines.set(name, { sources: 0, done: 0, jobs: event.jobs[at] ?? 0 }),
        );
        return undefined;
      case 'pipeline-started': {
        const { pipeline, sources } = event;
        this.#pipelines.set(pipeline, { ...this.#of(pipeline), sources });
        return this.#line(pipeline);
      }
      case 'job-done': {
        const one = this.#of(event.pipeline);
        // Sources that have not changed since the last build have no jobs.
        if (one.done === 0 && event.total < one.sources) one.jobs = Math.ceil((one.jobs * event.total) / one.sources);
        one.done++;
        one.jobs = Math.max(one.jobs, one.done);
        return this.#line(`${event.pipeline}: ${event.step}`);
      }
      case 'pipeline-done': {
        const one = this.#of(event.report.name);
        one.jobs = one.done;
        return undefined;
      }
      default:
        return undefined;
    }
  }

  #of(pipeline: string): PipelineProgress {
    return this.#pipelines.get(pipeline) ?? { sources: 0, done: 0, jobs: 0 };
  }

  #line(what: string): string {
    const all = [...this.#pipelines.values()];
    const sum = (values: readonly number[]): number => values.reduce((total, one) => total + one, 0);
    const [done, jobs] = [sum(all.map((one) => one.done)), sum(all.map((one) => one.jobs))];
    const elapsed = this.clock() - this.#started;
    const isKnown = elapsed >= estimatedFrom && done >= jobs * knownPart && done < jobs;
    const left = isKnown ? `, about ${formatTime(Math.max(1000, ((jobs - done) / done) * elapsed))} left` : '';
    return `${what} (${String(done)} of ${String(jobs)} jobs${left})`;
  }
}
