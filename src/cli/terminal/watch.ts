import type { Diagnostic } from '../../core/diagnostics/index.js';
import type { BuildEvent, BuildReport, JobRun, PipelineReport } from '../../core/build/report.js';
import type { ServerEvent } from '../../server/event.js';
import { count, formatTime } from './figures.js';
import { BuildProgress } from './build-progress.js';
import type { Progress } from './progress.js';
import { SizeChanges } from './size-changes.js';
import { describeOrphans, describeProblem, describeStates, drawJobs } from './summary.js';
import type { Terminal } from './terminal.js';

/** The indentation of a block after its first line. */
const margin = ' '.repeat(10);

/** The maximum number of files to name. */
const namedFiles = 3;

/** Prints a session: one compact block per round; rounds without effect are not printed. */
export class WatchView {
  #pipelines: readonly string[] = [];
  #changed: Extract<ServerEvent, { event: 'changed' }> | undefined;
  #recovered: string[] = [];
  #pages: Extract<ServerEvent, { event: 'pages-updated' }> | undefined;
  readonly #far = new BuildProgress();
  readonly #sizes = new SizeChanges();
  #isFirst = true;
  #isBuilding = false;
  #isHinted = false;
  #isPolling = false;
  #round: { readonly diagnostics: Diagnostic[]; readonly reports: PipelineReport[]; readonly jobs: JobRun[] } = {
    diagnostics: [],
    reports: [],
    jobs: [],
  };
  /** The last diagnostics of each pipeline as text, so that they are not printed again in every round. */
  readonly #printed = new Map<string, string>();

  constructor(
    private readonly terminal: Terminal,
    private readonly progress: Progress,
    private readonly options: { readonly quiet?: boolean; readonly verbose?: boolean; readonly sizes?: boolean },
  ) {}

  event(event: ServerEvent): void {
    const progress = this.#far.text(event as BuildEvent);
    if (progress !== undefined) this.progress.show(progress);
    switch (event.event) {
      case 'session-started': {
        this.#pipelines = event.pipelines;
        const { strong } = this.terminal.out;
        return this.#print(`Watching ${count(event.pipelines.length, 'pipeline')} for ${strong(event.profile)}.\n\n`);
      }
      case 'changed':
        this.#changed = event;
        return;
      case 'build-started':
        this.#isBuilding = true;
        this.#round = { diagnostics: [], reports: [], jobs: [] };
        return;
      case 'diagnostic':
        // Diagnostics between the rounds belong to none of them.
        if (!this.#isBuilding) return this.#printDiagnostics([event.diagnostic]);
        this.#round.diagnostics.push(event.diagnostic);
        return;
      case 'config-error':
        return this.#drawConfigError(event.diagnostics, event.isProjectFile);
      case 'pipeline-done':
        this.#round.reports.push(event.report);
        this.#sizes.note(event.report);
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
      case 'pages-updated':
        this.#pages = event;
        return;
      case 'command-output':
        this.progress.hide();
        return this.terminal.printError(this.terminal.drawCommandLine(event.pipeline, event.line));
      case 'job-ran':
        if (this.options.verbose) this.#round.jobs.push(event);
        return;
      case 'pipeline-started':
      case 'job-done':
      case 'published':
        return;
    }
  }

  #drawServing({ folder, urls, portInUse }: Extract<ServerEvent, { event: 'serving' }>): void {
    const { strong } = this.terminal.out;
    const [first, ...others] = urls;
    if (portInUse !== undefined) this.#print(`Port ${String(portInUse)} is in use; using ${new URL(first!).port}.\n`);
    this.#print(`Serving ${strong(folder)} at ${strong(first!)}\n`);
    for (const url of others) this.#print(`On the network: ${strong(url)}\n`);
  }

  /** The pages that were updated in this round. */
  #drawPages(): void {
    const updated = this.#pages;
    this.#pages = undefined;
    if (!updated) return;
    const { changed, problems } = updated;
    const named = changed.slice(0, namedFiles).join(', ');
    const more = changed.length > namedFiles ? ` and ${count(changed.length - namedFiles, 'more file')}` : '';
    const state = problems > 0 ? `${count(problems, 'problem')} shown` : 'errors cleared';
    const what = changed.length > 0 ? `${named}${more} updated` : state;
    this.#print(`${margin}${count(updated.pages, 'page')}: ${what}\n`);
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
    const isNews = this.#areNew('', others);
    const { removed } = report;
    if (this.#isFirst || fresh.length > 0 || isNews || this.#recovered.length > 0 || removed.length > 0) {
      this.#print(`${out.faint(clock())}  ${this.#title(fresh)}\n`);
      if (isNews) this.#printDiagnostics(others);
      for (const one of fresh) this.#drawPipeline(one);
      if (removed.length > 0) this.#print(`${margin}${describeOrphans(removed)}\n`);
      if (this.#recovered.length > 0) this.#print(`${margin}${out.good('fixed')}: ${this.#recovered.join(', ')}\n`);
      this.#drawPages();
      if (!isStopped) this.#print(`${margin}${this.#end(report)}\n`);
      this.#print('\n');
    }
    this.#isFirst = false;
    this.#recovered = [];
    if (!isStopped) this.#changed = undefined;
  }

  /** The project file or the plan is invalid. */
  #drawConfigError(diagnostics: readonly Diagnostic[], isProjectFile: boolean): void {
    if (!isProjectFile) this.#isBuilding = false;
    const { out } = this.terminal;
    const file = diagnostics[0]?.file;
    const what = file === undefined ? 'The project file was removed' : `${out.strong(file)} changed`;
    const title = isProjectFile ? what : this.#title([]);
    this.#print(`${out.faint(clock())}  ${title}\n`);
    this.#printDiagnostics(diagnostics);
    const effect = isProjectFile ? 'the last valid version stays in use' : 'nothing is built until this is fixed';
    this.#print(`${margin}${out.error('FAILED')}; ${effect}\n\n`);
  }

  /** Reports whether a job ran, an output was written, or a diagnostic is new. */
  #isNews(report: PipelineReport): boolean {
    const isNews = this.#areNew(report.name, this.#diagnosticsOf(report));
    const did = report.steps.some((step) => step.run > 0) || report.removed.length > 0;
    return did || isNews || report.outputs.some((output) => output.state === 'written');
  }

  /** Records the diagnostics of a pipeline; returns whether they are new. */
  #areNew(name: string, diagnostics: readonly Diagnostic[]): boolean {
    const text = JSON.stringify(diagnostics);
    const before = this.#printed.get(name) ?? '[]';
    this.#printed.set(name, text);
    return text !== before && diagnostics.length > 0;
  }

  #diagnosticsOf({ name }: PipelineReport): Diagnostic[] {
    return this.#round.diagnostics.filter((one) => one.pipeline === name);
  }

  #title(fresh: readonly PipelineReport[]): string {
    const { strong } = this.terminal.out;
    if (this.#changed) return describeChanges(this.#changed, strong);
    if (!this.#isFirst) return 'Rebuilt';
    return fresh.length === 0 ? 'Up to date' : 'Built changes since the last session';
  }

  #drawPipeline(report: PipelineReport): void {
    const { out } = this.terminal;
    const width = Math.max(...this.#pipelines.map((name) => name.length));
    const name = `${margin}${out.strong(report.name.padEnd(width))}`;
    this.#printDiagnostics(this.#diagnosticsOf(report));
    const problem = describeProblem(report, out);
    if (problem !== undefined) return this.#print(`${name}  ${problem}\n`);
    const steps = report.steps.filter((step) => step.run > 0).map(({ step, run }) => `${step} ${String(run)}`);
    const work = steps.length === 0 ? (report.steps.length === 0 ? 'copied' : 'all reused') : steps.join(', ');
    this.#print(
      `${name}  ${work.padEnd(34)}  ${describeStates(report, out)}  ${formatTime(report.milliseconds).padStart(7)}\n`,
    );
    if (this.options.sizes) this.#print(this.#sizes.draw(report, out, margin));
    if (!this.options.verbose) return;
    this.#print(
      drawJobs(
        this.#round.jobs.filter(({ pipeline }) => pipeline === report.name),
        out,
        margin,
      ),
    );
    for (const { path, state } of report.outputs) if (state === 'written') this.#print(`${' '.repeat(12)}${path}\n`);
  }

  #end(report: BuildReport): string {
    const { out } = this.terminal;
    const { run, reused } = report.jobs;
    const jobs = `${count(run, 'job')} run, ${String(reused)} reused`;
    const time = formatTime(report.milliseconds);
    const named = (state: PipelineReport['state']): string[] =>
      report.pipelines.filter((one) => one.state === state).map((one) => one.name);
    const [failed, blocked] = [named('failed'), named('blocked')];
    const errors = report.diagnostics.filter((one) => one.severity === 'error').length;
    const warnings = report.diagnostics.filter((one) => one.severity === 'warning').length;
    const problems = [
      ...(errors > 0 ? [out.error(count(errors, 'error'))] : []),
      ...(warnings > 0 ? [out.warning(count(warnings, 'warning'))] : []),
    ];
    const found = problems.length > 0 ? ` with ${problems.join(' and ')}` : '';
    if (failed.length === 0) return `${out.good('done')}${found} in ${time}; ${jobs}`;
    const waiting = blocked.length > 0 ? `; ${blocked.join(', ')} blocked` : '';
    const others = failed.length + blocked.length < report.pipelines.length ? '; the others are up to date' : '';
    return `${out.error(count(errors, 'error'))} in ${failed.join(', ')}${waiting}${others}; ${time}`;
  }

  #hint(isPolling: boolean): void {
    this.#isPolling = isPolling;
    if (this.#isHinted || this.options.quiet) return;
    this.#isHinted = true;
    const keys = this.terminal.hasKeys ? ' Press h for help, q to quit.' : '';
    this.#print(`${this.terminal.out.faint(`Waiting for changes${this.#isPolling ? ' (polling)' : ''}.${keys}`)}\n\n`);
  }

  #printDiagnostics(diagnostics: readonly Diagnostic[]): void {
    this.progress.hide();
    if (diagnostics.length > 0) this.terminal.printError(`\n${this.terminal.draw(diagnostics, this.options.verbose)}`);
  }

  #print(text: string): void {
    if (!this.options.quiet) this.terminal.print(text);
  }
}

/** Groups the files of a round by event, such as `a.css changed; b.css added`. */
function describeChanges(
  { paths, added, removed }: Extract<ServerEvent, { event: 'changed' }>,
  strong: (text: string) => string,
): string {
  const changed = paths.filter((path) => !added.includes(path) && !removed.includes(path));
  const groups: [readonly string[], string][] = [
    [changed, 'changed'],
    [added, 'added'],
    [removed, 'removed'],
  ];
  const described = groups.flatMap(([files, what]) => {
    if (files.length === 0) return [];
    const named = files.slice(0, namedFiles).map((path) => strong(path));
    const more = files.length > namedFiles ? ` and ${count(files.length - namedFiles, 'more file')}` : '';
    return [`${named.join(', ')}${more} ${what}`];
  });
  return described.join('; ');
}

/** The local time of day. */
function clock(): string {
  return new Date().toTimeString().slice(0, 8);
}
