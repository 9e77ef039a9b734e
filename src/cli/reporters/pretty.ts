import type { Diagnostic } from '../../core/diagnostics/index.js';
import type { BuildEvent, BuildReport, JobRun, PipelineReport } from '../../core/build/report.js';
import type { PipelineForecast } from '../../core/explain/forecast.js';
import type { OutputReasons, SourceReach } from '../../core/explain/why.js';
import type { Plan } from '../../core/plan/plan.js';
import type { PlannedPipeline } from '../../core/plan/pipeline.js';
import type { BrowserCost } from '../../core/languages/css/prefix/cost.js';
import type { ServerEvent } from '../../server/event.js';
import type { Reporter } from '../reporter.js';
import { count } from '../terminal/figures.js';
import { BuildProgress } from '../terminal/build-progress.js';
import { Progress } from '../terminal/progress.js';
import { SummaryColumns } from '../terminal/summary-columns.js';
import { drawBuildEnd, drawHeadings, drawJobs, drawOutputs, drawPipeline } from '../terminal/summary.js';
import type { Terminal } from '../terminal/terminal.js';
import type { WatchView } from '../terminal/watch.js';

/** Output for people: results on standard output, diagnostics and progress on standard error. */
export class PrettyReporter implements Reporter {
  readonly #progress: Progress;
  readonly #far = new BuildProgress();
  /** The jobs that have run, for --verbose. */
  #jobs: JobRun[] = [];
  /** Draws the rounds of a session. */
  readonly #watch: WatchView | undefined;
  /** Pipelines that have not been printed yet, in the order of the plan. */
  #waiting: string[] = [];
  #hasHeadings = false;
  #columns = new SummaryColumns([], Infinity);
  readonly #done = new Map<string, PipelineReport>();
  readonly #diagnostics = new Map<string | undefined, Diagnostic[]>();

  constructor(
    private readonly terminal: Terminal,
    private readonly options: { readonly quiet?: boolean; readonly verbose?: boolean },
    /** Given for a session. */
    View: typeof WatchView | undefined,
  ) {
    this.#progress = new Progress(terminal.isLive && !options.quiet);
    this.#watch = View && new View(terminal, this.#progress, options);
  }

  event(event: ServerEvent): void {
    if (this.#watch) this.#watch.event(event);
    else this.#buildEvent(event as BuildEvent);
  }

  #buildEvent(event: BuildEvent): void {
    const progress = this.#far.text(event);
    if (progress !== undefined) this.#progress.show(progress);
    switch (event.event) {
      case 'published':
      case 'pipeline-started':
      case 'job-done':
        return;
      case 'build-started':
        this.#columns = new SummaryColumns(
          [...(this.terminal.isTerminal ? ['pipeline'] : []), ...event.pipelines],
          this.terminal.width,
        );
        this.#waiting = [...event.pipelines];
        this.#done.clear();
        this.#diagnostics.clear();
        this.#jobs = [];
        break;
      case 'job-ran':
        if (this.options.verbose) this.#jobs.push(event);
        break;
      case 'command-output':
        this.#progress.hide();
        if (!this.options.quiet) this.terminal.printError(this.terminal.drawCommandLine(event.pipeline, event.line));
        break;
      case 'diagnostic':
        this.#collect(event.diagnostic);
        break;
      case 'pipeline-done':
        this.#done.set(event.report.name, event.report);
        this.#printDone();
        break;
      case 'build-done':
        this.#end(event.report);
    }
  }

  diagnostics(diagnostics: readonly Diagnostic[]): void {
    this.#progress.hide();
    if (diagnostics.length > 0) this.terminal.printError(this.terminal.draw(diagnostics, this.options.verbose));
  }

  again(diagnostics: readonly Diagnostic[]): void {
    if (diagnostics.length === 0) this.terminal.print('No problems in the last round.\n\n');
    this.diagnostics(diagnostics);
  }

  get hasKeys(): boolean {
    return this.terminal.hasKeys;
  }

  async plan(plan: Plan, pipelines: readonly PlannedPipeline[]): Promise<void> {
    const { drawPlan } = await import('../terminal/plan.js');
    this.terminal.print(drawPlan(plan, pipelines, this.options.verbose ?? false, this.terminal.out));
  }

  async browsers(profile: string, cost: BrowserCost): Promise<void> {
    const { drawBrowsers } = await import('../terminal/browsers.js');
    this.terminal.print(drawBrowsers(profile, cost, this.options.verbose ?? false, this.terminal.out));
  }

  async forecast(profile: string, forecasts: readonly PipelineForecast[]): Promise<void> {
    const { drawForecast } = await import('../terminal/forecast.js');
    const { width, out } = this.terminal;
    this.terminal.print(drawForecast(profile, forecasts, this.options.verbose ?? false, out, width));
  }

  async why(explanation: OutputReasons | SourceReach): Promise<void> {
    const { drawWhy } = await import('../terminal/why.js');
    this.terminal.print(drawWhy(explanation, this.options.verbose ?? false, this.terminal.out));
  }

  cleaned(removed: readonly string[]): void {
    if (this.options.quiet) return;
    if (this.options.verbose) for (const path of removed) this.terminal.print(`  ${path}\n`);
    this.terminal.print(
      removed.length === 0 ? 'Nothing to remove.\n' : `Removed ${count(removed.length, 'output')}.\n`,
    );
  }

  fixed(paths: readonly string[]): void {
    if (this.options.quiet) return;
    for (const path of paths)
      this.terminal.print(`${this.terminal.out.good('fixed')}  ${this.terminal.out.strong(path)}\n`);
    if (paths.length > 0) this.terminal.print('\n');
  }

  created(files: readonly string[], changed: readonly string[], next: readonly string[]): void {
    if (this.options.quiet) return;
    const line = (verb: string, file: string): void =>
      this.terminal.print(`${this.terminal.out.good(verb)}  ${this.terminal.out.strong(file)}\n`);
    for (const file of files) line('created', file);
    for (const file of changed) line('changed', file);
    if (next.length > 0) this.terminal.print(`\n${next.join('\n')}\n`);
  }

  proposed(yaml: string): void {
    if (!this.options.quiet) this.terminal.print(`${yaml.replace(/^/gm, '  ')}\n`.replace(/[ ]+$/gm, ''));
  }

  ring(): void {
    this.terminal.ring();
  }

  text(text: string): void {
    this.terminal.print(text);
  }

  end(): void {
    this.#progress.hide();
  }

  #collect(one: Diagnostic): void {
    const pipeline = one.pipeline !== undefined && this.#waiting.includes(one.pipeline) ? one.pipeline : undefined;
    if (pipeline === undefined) this.diagnostics([one]);
    else this.#diagnostics.set(pipeline, [...(this.#diagnostics.get(pipeline) ?? []), one]);
  }

  #printDone(): void {
    for (let name = this.#waiting[0]; name !== undefined && this.#done.has(name); name = this.#waiting[0]) {
      const report = this.#done.get(name)!;
      this.diagnostics(this.#diagnostics.get(name) ?? []);
      this.#waiting.shift();
      if (this.options.quiet) continue;
      this.#progress.hide();
      if (this.terminal.isTerminal && !this.#hasHeadings)
        this.terminal.print(drawHeadings(this.#columns, this.terminal.out));
      this.#hasHeadings = true;
      this.terminal.print(drawPipeline(report, this.#columns, this.terminal.out));
      if (!this.options.verbose) continue;
      const jobs = this.#jobs.filter((job) => job.pipeline === name);
      this.terminal.print(drawJobs(jobs, this.terminal.out) + drawOutputs(report, this.terminal.out));
    }
  }

  #end(report: BuildReport): void {
    this.#progress.hide();
    if (!this.options.quiet) this.terminal.print(drawBuildEnd(report, this.terminal.out));
  }
}
