import type { Diagnostic } from '../../core/diagnostics/index.js';
import type { BuildReport, PipelineReport } from '../../core/build/report.js';
import type { ServerEvent } from '../../server/event.js';
import { count, formatTime } from './figures.js';
import type { Progress } from './progress.js';
import { describeLeftOvers, describeStates } from './summary.js';
import type { Terminal } from './terminal.js';

/** What stands before every line of a block but its first. */
const margin = ' '.repeat(10);

/** How many changed files are named. */
const namedFiles = 3;

/** Draws a session: one compact block a round, and nothing for rounds that did nothing. */
export class WatchView {
  #pipelines: readonly string[] = [];
  #changed: readonly string[] = [];
  #recovered: string[] = [];
  #pages: Extract<ServerEvent, { event: 'pages-told' }> | undefined;
  #isFirst = true;
  #isBuilding = false;
  #isHinted = false;
  #isPolling = false;
  #round: { readonly diagnostics: Diagnostic[]; readonly reports: PipelineReport[] } = { diagnostics: [], reports: [] };
  /** What was told of each pipeline, so that it is not told again in every round. */
  readonly #told = new Map<string, string>();

  constructor(
    private readonly terminal: Terminal,
    private readonly progress: Progress,
    private readonly options: { readonly quiet?: boolean; readonly verbose?: boolean },
  ) {}

  event(event: ServerEvent): void {
    switch (event.event) {
      case 'session-started': {
        this.#pipelines = event.pipelines;
        const { strong } = this.terminal.out;
        return this.#print(`Watching ${count(event.pipelines.length, 'pipeline')} for ${strong(event.profile)}.\n\n`);
      }
      case 'changed':
        this.#changed = event.paths;
        return;
      case 'build-started':
        this.#isBuilding = true;
        this.#round = { diagnostics: [], reports: [] };
        return;
      case 'job-done':
        return this.progress.show(`${event.pipeline}: ${event.step}, ${String(event.done)} of ${String(event.total)}`);
      case 'diagnostic':
        // What is said between the rounds belongs to none of them.
        if (!this.#isBuilding) return this.#tell([event.diagnostic]);
        this.#round.diagnostics.push(event.diagnostic);
        return;
      case 'refused':
        return this.#drawRefused(event.diagnostics, event.isProjectFile);
      case 'pipeline-done':
        this.#round.reports.push(event.report);
        return;
      case 'build-done':
        return this.#drawRound(event.report);
      case 'recovered':
        this.#recovered.push(...event.pipelines);
        return;
      case 'waiting':
        return this.#hint(event.isPolling);
      case 'serving':
        return this.#drawServing(event);
      case 'page-opened':
        return this.#print(`${this.terminal.out.faint(clock())}  ${event.page} opened in ${event.browser}\n\n`);
      case 'pages-told':
        this.#pages = event;
        return;
      case 'pipeline-started':
        return;
    }
  }

  #drawServing({ folder, urls, takenPort }: Extract<ServerEvent, { event: 'serving' }>): void {
    const { strong } = this.terminal.out;
    if (takenPort !== undefined) this.#print(`Port ${String(takenPort)} is taken; this is the next free one.\n`);
    const [first, ...others] = urls;
    this.#print(`Serving ${strong(folder)} at ${strong(first!)}\n`);
    for (const url of others) this.#print(`In the network: ${strong(url)}\n`);
  }

  /** What the pages were told of the round. */
  #drawPages(): void {
    const told = this.#pages;
    this.#pages = undefined;
    if (!told) return;
    const { changed, problems } = told;
    const named = changed.slice(0, namedFiles).join(', ');
    const more = changed.length > namedFiles ? ` and ${count(changed.length - namedFiles, 'more file')}` : '';
    const wrong = problems > 0 ? count(problems, 'problem') : 'that all is well again';
    const what = changed.length > 0 ? `${named}${more}` : wrong;
    this.#print(`${margin}${count(told.pages, 'page')} told: ${what}\n`);
  }

  #drawRound(report: BuildReport): void {
    this.#isBuilding = false;
    this.progress.hide();
    const { out } = this.terminal;
    const reports = report.pipelines.filter((one) => one.state !== 'interrupted');
    const news = new Set(reports.filter((one) => this.#isNews(one)).map((one) => one.name));
    const fresh = reports.filter((one) => news.has(one.blockedBy ?? one.name));
    const isStopped = reports.length < report.pipelines.length;
    const others = this.#round.diagnostics.filter((one) => one.pipeline === undefined);
    const isNews = this.#isNewlySaid('', others);
    const { removed } = report;
    if (this.#isFirst || fresh.length > 0 || isNews || this.#recovered.length > 0 || removed.length > 0) {
      this.#print(`${out.faint(clock())}  ${this.#title(fresh)}\n`);
      if (isNews) this.#tell(others);
      for (const one of fresh) this.#drawPipeline(one);
      if (removed.length > 0) this.#print(`${margin}${describeLeftOvers(removed)}\n`);
      if (this.#recovered.length > 0) this.#print(`${margin}${out.good('fixed')}: ${this.#recovered.join(', ')}\n`);
      this.#drawPages();
      if (!isStopped) this.#print(`${margin}${this.#end(report)}\n`);
      this.#print('\n');
    }
    this.#isFirst = false;
    this.#recovered = [];
    if (!isStopped) this.#changed = [];
  }

  /** The project as it is now cannot be built. */
  #drawRefused(diagnostics: readonly Diagnostic[], isProjectFile: boolean): void {
    if (!isProjectFile) this.#isBuilding = false;
    const { out } = this.terminal;
    const file = diagnostics[0]?.file ?? '';
    const title = isProjectFile ? `${out.strong(file)} changed` : this.#title([]);
    this.#print(`${out.faint(clock())}  ${title}\n`);
    this.#tell(diagnostics);
    const stays = isProjectFile ? 'the last good one stays in use' : 'nothing is built until that is fixed';
    this.#print(`${margin}${out.error('with errors')}; ${stays}\n\n`);
  }

  /** Whether something ran, was written, or is told for the first time. */
  #isNews(report: PipelineReport): boolean {
    const isNews = this.#isNewlySaid(report.name, this.#diagnosticsOf(report));
    const did = report.steps.some((step) => step.run > 0) || report.removed.length > 0;
    return did || isNews || report.outputs.some((output) => output.state === 'written');
  }

  /** Takes note of what is said of something; says whether it was not said before. */
  #isNewlySaid(name: string, diagnostics: readonly Diagnostic[]): boolean {
    const text = JSON.stringify(diagnostics);
    const before = this.#told.get(name) ?? '[]';
    this.#told.set(name, text);
    return text !== before && diagnostics.length > 0;
  }

  #diagnosticsOf({ name }: PipelineReport): Diagnostic[] {
    return this.#round.diagnostics.filter((one) => one.pipeline === name);
  }

  #title(fresh: readonly PipelineReport[]): string {
    const { strong } = this.terminal.out;
    if (this.#changed.length > 0) {
      const named = this.#changed.slice(0, namedFiles).map((path) => strong(path));
      const more = this.#changed.length - named.length;
      return `${named.join(', ')}${more > 0 ? ` and ${count(more, 'more file')}` : ''} changed`;
    }
    if (!this.#isFirst) return 'Built again';
    return fresh.length === 0 ? 'Everything is up to date' : 'Caught up with what had changed';
  }

  #drawPipeline(report: PipelineReport): void {
    const { out } = this.terminal;
    const width = Math.max(...this.#pipelines.map((name) => name.length));
    const name = `${margin}${out.strong(report.name.padEnd(width))}`;
    if (report.state === 'blocked')
      return this.#print(`${name}  ${out.faint(`not built: ${report.blockedBy ?? ''} was not built`)}\n`);
    this.#tell(this.#diagnosticsOf(report));
    if (report.state === 'failed')
      return this.#print(`${name}  ${out.error('not built')}; its outputs stay as they were\n`);
    const steps = report.steps.filter((step) => step.run > 0).map(({ step, run }) => `${step} ${String(run)}`);
    const work = steps.length === 0 ? (report.steps.length === 0 ? 'copied' : 'all reused') : steps.join(', ');
    this.#print(
      `${name}  ${work.padEnd(34)}  ${describeStates(report, out)}  ${formatTime(report.milliseconds).padStart(7)}\n`,
    );
    if (this.options.verbose)
      for (const { path, state } of report.outputs) if (state === 'written') this.#print(`${' '.repeat(12)}${path}\n`);
  }

  #end(report: BuildReport): string {
    const { out } = this.terminal;
    const { run, reused } = report.jobs;
    const jobs = `${count(run, 'job')} run, ${String(reused)} reused`;
    const time = formatTime(report.milliseconds);
    const named = (state: PipelineReport['state']): string[] =>
      report.pipelines.filter((one) => one.state === state).map((one) => one.name);
    const [failed, waiting] = [named('failed'), named('blocked')];
    if (failed.length === 0) return `${out.good('done')} in ${time}; ${jobs}`;
    const waits = waiting.length > 0 ? `; ${waiting.join(', ')} ${waiting.length === 1 ? 'waits' : 'wait'}` : '';
    const others = failed.length + waiting.length < report.pipelines.length ? '; the others are up to date' : '';
    return `${out.error('with errors')} in ${failed.join(', ')}${waits}${others}; ${time}`;
  }

  #hint(isPolling: boolean): void {
    this.#isPolling = isPolling;
    if (this.#isHinted || this.options.quiet) return;
    this.#isHinted = true;
    const keys = this.terminal.hasKeys ? ' h shows the keys, q quits.' : '';
    this.#print(
      `${this.terminal.out.faint(`Waiting for changes${this.#isPolling ? ', by the clock' : ''}.${keys}`)}\n\n`,
    );
  }

  #tell(diagnostics: readonly Diagnostic[]): void {
    this.progress.hide();
    if (diagnostics.length > 0) this.terminal.tell(`\n${this.terminal.draw(diagnostics, this.options.verbose)}`);
  }

  #print(text: string): void {
    if (!this.options.quiet) this.terminal.print(text);
  }
}

/** The time of day, where the terminal is. */
function clock(): string {
  return new Date().toTimeString().slice(0, 8);
}
