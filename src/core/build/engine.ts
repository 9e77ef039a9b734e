import { setMaxListeners } from 'node:events';
import { statSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { executingSteps } from '../config/executing-steps.js';
import { diagnostic, fail, type Diagnostic } from '../diagnostics/index.js';
import { FileTable } from '../files/file-table.js';
import { FolderTree } from '../files/folder-tree.js';
import { saveRecord, type OutputRoot } from '../outputs/publish.js';
import { OutputRecord } from '../outputs/record.js';
import type { ProjectFolder } from '../files/project-folder.js';
import { runsAlways, type PlannedPipeline } from '../plan/pipeline.js';
import { OutputOwners } from './output-owners.js';
import { isNamed } from '../plan/naming.js';
import { selectPipelines, type Plan } from '../plan/plan.js';
import { newCode } from './new-code.js';
import { withCurrentVariables, withoutVariables } from '../plan/variables.js';
import type { PlanInputs } from '../plan/request.js';
import type { StepCatalogue } from '../config/steps.js';
import type { Step } from '../steps/step.js';
import { adoptOutputs } from '../outputs/adopt.js';
import type { BuildEvent, BuildReport, JobRun } from './report.js';
import { build } from './build.js';
import type { BuildRequest } from './build-request.js';
import type { BuildForecast } from '../explain/forecast.js';
import { Inputs } from './inputs.js';
import type { PipelineMemo } from './memo.js';
import { RunResources } from '../execute/resources.js';
import { saveUpToDate } from './up-to-date.js';
import { saveState, loadState, type BuildState } from '../cache/state.js';
import { cachePath, storeFolder } from '../cache/store-folder.js';
import type { SiteReport } from '../explain/report/site-report.js';
import type { OutputReasons, SourceReach } from '../explain/why.js';
import { SiteCheck } from './site-check.js';
import { Site } from './site.js';
import { somePaths } from '../explain/some-paths.js';
import { JobExecutor } from '../execute/job-executor.js';

/** Options of an engine. */
export interface EngineSetting {
  /** The project folder, absolute. */
  readonly folder: ProjectFolder;
  readonly steps: ReadonlyMap<string, Step>;
  readonly catalogue: StepCatalogue;
  /** The module that workers run. */
  readonly worker: string;
  /** The maximum size of the store, in bytes. */
  readonly storeLimit: () => Promise<number>;
  /** True if it builds and writes nothing. */
  readonly isReadOnly: boolean;
  /** True if it builds repeatedly until it is closed. */
  readonly isSession: boolean;
}

/** The content of a project file that plans depend on. */
export interface PlanSource {
  /** The name of the project file. */
  readonly file: string;
  /** `configHash` of its text. */
  readonly configHash: string;
  /** Makes the plan; not called while the last plan is current. */
  readonly makePlan: (request: PlanInputs) => Promise<Plan>;
}

/** Options of a build. */
export interface EngineRequest {
  readonly profile: string;
  /** Names of pipelines; empty for all of them. */
  readonly pipelines: readonly string[];
  /** True if outputs may replace files that the tool did not write. */
  readonly force: boolean;
  /** True if every job runs, regardless of the cache. */
  readonly isFresh: boolean;
  /** True if the report comes first, before gzip sizes are known and results are in the store. */
  readonly isInteractive: boolean;
  /** True if the report waits for the gzip sizes of outputs; by default, if the build is not interactive. */
  readonly needsGzip?: boolean | undefined;
  readonly signalOf: (pipeline: string) => AbortSignal;
  readonly tell: (event: BuildEvent) => void;
}

/** An output whose name may contain a hash of its content. */
export interface NamedFile {
  /** The path under which it is published. */
  readonly published: string;
  /** The hash of its content before references in it are changed to the names of other outputs. */
  readonly hash: string;
}

/** The state of one profile. */
export interface ProfileState {
  readonly path: string;
  readonly upToDatePath: string;
  configHash: string;
  folders: Readonly<Record<string, string>>;
  plan: Plan | undefined;
  /** True if the plan was made by this process. */
  isOwnPlan: boolean;
  build: number;
  /** The report of the last build, if it built all pipelines. */
  report: BuildReport | undefined;
  readonly memos: Map<string, PipelineMemo>;
  readonly published: BuildRequest['published'];
  readonly named: BuildRequest['named'];
  readonly siteCheck: SiteCheck;
  isNew: boolean;
}

/** Reports whether a plan runs code that the project file names. */
const executesCode = ({ pipelines }: Plan): boolean =>
  pipelines.some(({ steps }) => steps.some(({ definition }) => executingSteps.has(definition.name)));

/** Reports whether a build did anything. */
const hasChanged = ({ jobs, removed, pipelines }: BuildReport): boolean =>
  jobs.run > 0 ||
  removed.length > 0 ||
  pipelines.some((one) => one.removed.length > 0 || one.outputs.some(({ state }) => state === 'written'));

/** Builds one project repeatedly, running only what a change affects. */
export class Engine {
  readonly files: FileTable;
  readonly tree: FolderTree;
  readonly inputs: Inputs;
  readonly record: OutputRecord;
  readonly #profileStates = new Map<string, ProfileState>();
  readonly #resources = new RunResources();
  readonly #folder: string;
  #executor: JobExecutor | undefined;
  #hasReportedStore = false;
  #hasStarted = false;

  constructor(private readonly setting: EngineSetting) {
    const { root } = setting.folder;
    this.files = new FileTable(root);
    this.tree = new FolderTree(root, this.files.boundary);
    this.inputs = new Inputs(this.files, this.tree);
    this.record = OutputRecord.open(root);
    this.#folder = storeFolder(root);
  }

  /** The state of a profile, from this engine's builds or from those of earlier runs. */
  profileState(file: string, profile: string): ProfileState {
    const path = cachePath(this.#folder, 'build', file, profile);
    const known = this.#profileStates.get(path);
    if (known) return known;
    const saved = loadState(path, this.setting.folder.root, this.setting.catalogue);
    if (saved) this.files.fill(saved.files);
    const state: ProfileState = {
      path,
      upToDatePath: cachePath(this.#folder, 'look', file, profile),
      configHash: saved?.configHash ?? '',
      folders: saved?.folders ?? {},
      plan: saved && { ...saved.plan, profile: withCurrentVariables(saved.plan.profile) },
      isOwnPlan: false,
      build: saved?.build ?? 0,
      report: undefined,
      memos: new Map(saved?.pipelines),
      published: new Map(),
      named: new Map(saved?.named),
      siteCheck: new SiteCheck(new Site(this.files, this.record)),
      isNew: !saved,
    };
    this.#profileStates.set(path, state);
    return state;
  }

  /**
   * Returns the plan of a profile; it is cached while its inputs are unchanged.
   *
   * @throws DiagnosticError with all errors of the project
   */
  async plan(source: PlanSource, profile: string): Promise<Plan> {
    const state = this.profileState(source.file, profile);
    const { plan, folders } = state;
    const { outputs, candidates } = this.record;
    if (
      plan &&
      (state.isOwnPlan || !executesCode(plan)) &&
      state.configHash === source.configHash &&
      plan.excludedOutputs.every((path) => outputs.has(path) || candidates.has(path)) &&
      this.tree.matches(folders)
    )
      return plan;
    const made = await source.makePlan({
      root: this.setting.folder.root,
      owned: { has: (path) => outputs.has(path) || candidates.has(path) },
      list: (glob) => this.inputs.list(glob),
      problems: () => this.tree.problems(),
    });
    state.plan = made;
    state.isOwnPlan = true;
    state.configHash = source.configHash;
    state.folders = this.tree.digests();
    state.isNew = true;
    return made;
  }

  /**
   * Builds pipelines and publishes their outputs.
   *
   * @throws DiagnosticError if the project or the request is wrong, before anything is done
   */
  async build(source: PlanSource, request: EngineRequest): Promise<BuildReport> {
    const { plan, diagnostics } = await this.#planWithOutputs(source, request.profile);
    const state = this.profileState(source.file, request.profile);
    const pipelines = this.#select(plan, request.pipelines, state.memos);
    state.build++;
    this.record.removeTempFiles(this.files.boundary);
    diagnostics.push(...this.#start(request.profile), ...newCode(pipelines, state.memos));
    // Every job at work listens.
    for (const { name } of pipelines) setMaxListeners(Infinity, request.signalOf(name));
    const executor = await this.#openExecutor();
    if (request.isInteractive) executor.deferStore();
    const ran: JobRun[] = [];
    const { isNew, ...report } = await build(plan, {
      pipelines,
      executor,
      outputRoot: this.outputRoot(request.force),
      memos: state.memos,
      published: state.published,
      named: state.named,
      siteCheck: state.siteCheck,
      build: state.build,
      diagnostics,
      isFresh: request.isFresh,
      isPartial: (path) => this.setting.catalogue.isPartial(path),
      needsGzip: request.needsGzip ?? !request.isInteractive,
      signalOf: request.signalOf,
      replan: () => this.#replan(source, request.profile),
      tell: (event) => {
        if (event.event === 'job-ran') ran.push(event);
        if (event.event === 'build-done') this.#reportStoreProblem(executor, request.tell);
        request.tell(event);
      },
    });
    await executor.endBuild();
    // Sessions build too often, and without knowing all sizes.
    if (!request.isInteractive && report.done && hasChanged(report)) {
      const { addToHistory } = await import('./history.js');
      addToHistory(this.#historyPath(source.file, request.profile), report, ran);
    }
    const isWhole = pipelines.length === plan.pipelines.length;
    state.report = isWhole && !pipelines.some(runsAlways) ? report : undefined;
    state.isNew ||= isNew || this.files.isChanged;
    return report;
  }

  /**
   * Determines what a build would do, without doing it.
   *
   * @throws DiagnosticError if the project or the request is invalid
   */
  async forecast(source: PlanSource, profile: string, names: readonly string[]): Promise<BuildForecast> {
    const { plan } = await this.#planWithOutputs(source, profile);
    const { memos, named } = this.profileState(source.file, profile);
    const pipelines = this.#select(plan, names, memos);
    const [{ forecast }, executor] = await Promise.all([import('../explain/forecast.js'), this.#openExecutor()]);
    return forecast(plan, { pipelines, memos, named, executor, place: this.outputRoot(false) });
  }

  /**
   * Explains a path with the results of the last build.
   *
   * @param path relative to the project
   * @throws DiagnosticError if the path is unknown to all builds
   */
  async explain(file: string, profile: string, path: string): Promise<OutputReasons | SourceReach> {
    const { plan, memos, named, build: number } = this.profileState(file, profile);
    if (!plan || memos.size === 0) return fail('why-unbuilt', { profile });
    const { explain } = await import('../explain/why.js');
    return explain(path, {
      plan,
      memos,
      named,
      inputs: this.inputs,
      build: number,
      isPublished: this.#publishedTest(),
    });
  }

  /**
   * Reports what the outputs of the last build are made of, what pages load, and what builds did.
   *
   * @throws DiagnosticError if there was no build
   */
  async report(file: string, profile: string): Promise<SiteReport> {
    const { plan, memos, named, build: number } = this.profileState(file, profile);
    if (!plan || memos.size === 0) return fail('why-unbuilt', { profile });
    const [{ makeReport }, { readHistory }] = await Promise.all([
      import('../explain/report/make-report.js'),
      import('./history.js'),
    ]);
    const executor = await this.#openExecutor();
    const history = readHistory(this.#historyPath(file, profile));
    const { signal } = new AbortController();
    setMaxListeners(Infinity, signal);
    return makeReport({
      ...{ plan, memos, named, inputs: this.inputs, build: number, isPublished: this.#publishedTest() },
      ...{ history, executor, signal },
    });
  }

  #publishedTest(): (path: string) => boolean {
    const { outputs } = this.outputRoot(false).record;
    return (path) => outputs.has(path);
  }

  #historyPath(file: string, profile: string): string {
    return cachePath(this.#folder, 'history', file, profile);
  }

  /** The outputs of the last build by the paths that references mean; undefined if none has a hash in its name. */
  names(file: string, profile: string): ReadonlyMap<string, NamedFile> | undefined {
    const { plan, memos, named } = this.profileState(file, profile);
    if (!plan || !isNamed(plan)) return undefined;
    const files = new Map<string, NamedFile>();
    for (const [name, memo] of memos)
      for (const { outputs } of memo.emitted.values()) {
        const [main] = outputs;
        const published = main && named.get(name)?.get(main.path)?.outputs[0];
        if (published) files.set(main.path, { published: published.path, hash: main.hash });
      }
    return files;
  }

  /** The profile of the last build of a project file, when there was one. */
  lastProfile(file: string, profiles: readonly string[]): string | undefined {
    const times = profiles.map((profile) => ({
      profile,
      time: statSync(cachePath(this.#folder, 'build', file, profile), { throwIfNoEntry: false })?.mtimeMs ?? 0,
    }));
    const last = times.reduce((a, b) => (b.time > a.time ? b : a), { profile: '', time: 0 });
    return last.time === 0 ? undefined : last.profile;
  }

  /** Returns the pipelines that read one of these files in the last build. */
  readersOf(paths: readonly string[], file: string, profile: string): string[] {
    const { plan, memos } = this.profileState(file, profile);
    const wanted = new Set(paths);
    const reads = ({ units }: PipelineMemo): boolean =>
      [...units.values()].some((unit) => unit.jobs.some((job) => job.reads.some(([, path]) => wanted.has(path))));
    return (plan?.pipelines ?? []).flatMap(({ name, sources }) => {
      const memo = memos.get(name);
      return sources.some((source) => wanted.has(source.path)) || (memo && reads(memo)) ? [name] : [];
    });
  }

  /** Warms up for the pipelines of a profile until the signal aborts. */
  async warmUp(file: string, profile: string, signal: AbortSignal): Promise<void> {
    const { plan, memos } = this.profileState(file, profile);
    for (const { steps, sources } of plan?.pipelines ?? []) {
      const paths = sources.map((source) => source.path);
      for (const { definition } of steps)
        await this.setting.steps
          .get(definition.name)
          ?.warmUp?.(paths, { resource: (name, make) => this.#resources.get(name, make) });
    }
    if (!plan || signal.aborted) return;
    // Every job at work listens.
    setMaxListeners(Infinity, signal);
    const executor = await this.#openExecutor();
    if (plan.pipelines.some(({ steps }) => steps.some(({ definition }) => definition.loads))) {
      const { warmUpLoads } = await import('../watch/warm-up-loads.js');
      for (const pipeline of plan.pipelines) await warmUpLoads(pipeline, plan, executor, signal);
    }
    const { warmUp } = await import('../watch/warm-up.js');
    const { folder, steps } = this.setting;
    await warmUp(plan, memos, { root: folder.root, steps, resources: this.#resources }, signal);
  }

  /** The root for publishing outputs. */
  outputRoot(force: boolean): OutputRoot {
    return { root: this.setting.folder.root, files: this.files, record: this.record, force };
  }

  /** Reports whether the project folder is still the same: not moved, removed or replaced. */
  get isInPlace(): boolean {
    return this.setting.folder.isInPlace;
  }

  /** Saves the state of all profiles for later runs. */
  async save(): Promise<void> {
    if (!this.isInPlace) return;
    await this.#executor?.gzipSizes.settled();
    for (const known of this.#profileStates.values()) {
      const { path, upToDatePath, configHash, folders, plan, build: number, memos, named, report, isNew } = known;
      if (!isNew || !plan) continue;
      const names = new Set(plan.pipelines.map((pipeline) => pipeline.name));
      const pipelines = new Map([...memos].filter(([name]) => names.has(name)));
      const state: BuildState = {
        configHash,
        folders,
        plan: { ...plan, profile: withoutVariables(plan.profile) },
        files: this.files.saved(),
        pipelines,
        named: new Map([...named].filter(([name]) => names.has(name))),
        build: number,
      };
      saveState(path, state);
      known.isNew = false;
      if (!report) continue;
      const sources = plan.pipelines.flatMap((pipeline) => pipeline.sources.map((source) => source.path));
      saveUpToDate({
        path: upToDatePath,
        configHash,
        folders,
        listedFolders: (lists) => this.#listedFolders(lists),
        memos: pipelines,
        named,
        sources,
        consulted: known.siteCheck.site.consulted,
        files: this.files,
        record: this.record.path,
        report,
      });
    }
    this.files.isChanged = false;
  }

  /** The folders that globs search, with their present digests; undefined if a glob matches other files than before. */
  #listedFolders(lists: readonly (readonly [glob: string, hash: unknown])[]): Record<string, string> | undefined {
    const tree = new FolderTree(this.setting.folder.root, this.files.boundary);
    const inputs = new Inputs(this.files, tree);
    return lists.every(([glob, hash]) => inputs.listHash(glob) === hash) ? tree.digests() : undefined;
  }

  /** Saves the state, and closes all resources. */
  async close(): Promise<void> {
    if (!this.setting.isReadOnly && this.isInPlace) {
      this.record.markEnded();
      saveRecord(this.outputRoot(false));
      await this.save();
    }
    await this.#resources.close();
    await this.#executor?.close();
  }

  /** The plan, and with a record that is not trusted, the outputs in it that count. */
  async #planWithOutputs(source: PlanSource, profile: string): Promise<{ plan: Plan; diagnostics: Diagnostic[] }> {
    const plan = await this.plan(source, profile);
    if (this.record.candidates.size === 0) return { plan, diagnostics: [] };
    const { ignored, isOtherPlan } = adoptOutputs(this.record, plan);
    if (isOtherPlan) this.profileState(source.file, profile).plan = undefined;
    return {
      plan: isOtherPlan ? await this.plan(source, profile) : plan,
      diagnostics: ignored.length === 0 ? [] : [diagnostic('record-untrusted', { ignored: somePaths(ignored) })],
    };
  }

  /** Plans again, after commands may have written any file. */
  async #replan(source: PlanSource, profile: string): Promise<{ plan: Plan; changed: readonly string[] }> {
    const changed = this.files.paths().filter((path) => this.files.refresh(path));
    this.inputs.refreshFolders();
    return { plan: await this.plan(source, profile), changed };
  }

  /** The pipelines that were named, with all that they depend on, in order. */
  #select(plan: Plan, names: readonly string[], memos: ReadonlyMap<string, PipelineMemo>): readonly PlannedPipeline[] {
    return new OutputOwners(plan, this.record).withReadPipelines(selectPipelines(plan, names), memos);
  }

  /** Announces this process to other builds, once, and reports running sessions. */
  #start(profile: string): Diagnostic[] {
    if (this.#hasStarted) return [];
    this.#hasStarted = true;
    const { isSession } = this.setting;
    // Two builds for one profile write the same.
    const others = this.record.running().filter((one) => one.isSession || isSession || one.profile !== profile);
    this.record.markRunning(profile, isSession);
    // If it cannot be saved, that is reported when outputs are published.
    saveRecord(this.outputRoot(false));
    return others.map((one) => diagnostic('project-shared', one));
  }

  async #openExecutor(): Promise<JobExecutor> {
    const { folder, steps, worker, storeLimit, isReadOnly } = this.setting;
    this.#executor ??= new JobExecutor({
      root: folder.root,
      steps,
      inputs: this.inputs,
      resources: this.#resources,
      store: { folder: this.#folder, limit: await storeLimit(), isReadOnly },
      threads: { count: availableParallelism(), program: worker },
    });
    return this.#executor;
  }

  #reportStoreProblem({ storeProblem }: JobExecutor, tell: (event: BuildEvent) => void): void {
    if (storeProblem === undefined || this.#hasReportedStore) return;
    this.#hasReportedStore = true;
    tell({ event: 'diagnostic', diagnostic: diagnostic('store-unusable', { reason: storeProblem }) });
  }
}
