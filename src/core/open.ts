import { executingSteps } from './config/executing-steps.js';
import { rmSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { DiagnosticError, type Diagnostic } from './diagnostics/index.js';
import type { BuildEvent, BuildReport } from './build/report.js';
import type { Engine, PlanSource } from './build/engine.js';
import type { BuildForecast } from './explain/forecast.js';
import type { SiteReport } from './explain/report/site-report.js';
import type { OutputReasons, SourceReach } from './explain/why.js';
import { writeJsonCache, readJsonCache } from './cache/json-cache.js';
import { checkUpToDate, replayReport } from './build/up-to-date.js';
import { configHash, cachePath, hashWithVariables, storeFolder } from './cache/store-folder.js';
import { forProfile } from './config/editions.js';
import { recordPath } from './outputs/record.js';
import { findProject, type ProjectFile } from './config/find.js';
import { ProjectFolder } from './files/project-folder.js';
import type { CachedConfig } from './config/config-cache.js';
import type { Plan } from './plan/plan.js';
import type { PlanInputs } from './plan/request.js';
import type { PipelineConfig, ProjectConfig, ServeConfig } from './config/project-config.js';

/** Options for opening a project. */
export interface OpenOptions {
  /** The folder in which to search for `anvil.yaml`, then in its parents. Default: the working folder. */
  readonly folder?: string | undefined;
  /** Another project file, relative to `folder`. */
  readonly config?: string | undefined;
  /** True to leave no files behind, not even caches for later runs. */
  readonly isReadOnly?: boolean | undefined;
}

/** Options of a build. */
export interface BuildOptions {
  /** `production` when it is left out. */
  readonly profile?: string | undefined;
  /** Names of pipelines; those that they wait for are built as well. All of them when it is left out. */
  readonly pipelines?: readonly string[] | undefined;
  /** True if files at the place of an output that the tool did not write may be replaced. */
  readonly force?: boolean | undefined;
  readonly signal?: AbortSignal | undefined;
  /** Receives every event of the build. */
  readonly listen?: ((event: BuildEvent) => void) | undefined;
}

/** Options of a forecast. */
export type ForecastOptions = Pick<BuildOptions, 'profile' | 'pipelines'>;

/** Options of `clean`. */
export interface CleanOptions {
  /** True to remove edited outputs as well. */
  readonly force?: boolean | undefined;
  /** True if the store of results is emptied as well. */
  readonly store?: boolean | undefined;
}

/** The result of `clean`. */
export interface CleanReport {
  readonly removed: readonly string[];
  readonly diagnostics: readonly Diagnostic[];
}

/** The version of a cached project; raised when older ones cannot be read any more. */
const cacheVersion = 6;

/**
 * A validated project file with its folder. Modules are loaded on demand: a build with nothing to do needs few.
 */
export class Project {
  #checked: ProjectConfig | undefined;
  /** Identifies the text of the project file. */
  readonly #configHash: string;
  /** Identifies everything that a plan is made of besides files: also the variables that constants have the values of. */
  #planHash: string;
  readonly #folder: ProjectFolder;

  private constructor(
    private readonly place: ProjectFile,
    private readonly isReadOnly: boolean,
  ) {
    this.#folder = new ProjectFolder(place.root);
    this.#configHash = configHash(place.text);
    this.#planHash = this.#configHash;
  }

  /**
   * Opens the project of a folder.
   *
   * @throws DiagnosticError with every mistake of the project file
   */
  static async open({ folder = '.', config, isReadOnly = false }: OpenOptions = {}): Promise<Project> {
    const project = new Project(findProject(folder, config), isReadOnly);
    const { profiles } = project.#cached() ?? (await project.#settings());
    project.#planHash = hashWithVariables(project.#configHash, profiles.values());
    return project;
  }

  /** The project folder, absolute. */
  get root(): string {
    return this.place.root;
  }

  /** The name of the project file. */
  get file(): string {
    return this.place.name;
  }

  /** The text of the project file. */
  get text(): string {
    return this.place.text;
  }

  /** The names of its profiles. */
  async profiles(): Promise<readonly string[]> {
    return [...(await this.#settings()).profiles.keys()];
  }

  /** The pipelines of the project file, in its order. */
  async pipelines(): Promise<readonly Pick<PipelineConfig, 'name' | 'description'>[]> {
    return (await this.#settings()).pipelines.map(({ name, description }) => ({
      name,
      ...(description !== undefined && { description }),
    }));
  }

  /** The settings of the development server, if the project file has any. */
  async serving(profile = 'production'): Promise<ServeConfig | undefined> {
    const { serve } = await this.#settings();
    return serve && { ...serve, folder: forProfile(serve.folder, profile) };
  }

  /**
   * Checks that profiles can be built together: that none writes what another one writes.
   *
   * @throws DiagnosticError for each pipeline that would
   */
  async checkEditions(profiles: readonly string[]): Promise<void> {
    const { editionConflicts } = await import('./plan/edition-conflicts.js');
    const plans = [];
    for (const profile of profiles) plans.push(await this.plan(profile));
    const found = editionConflicts(plans, await this.#settings());
    if (found.length > 0) throw new DiagnosticError(...found);
  }

  /**
   * Plans a profile from the current files of the project.
   *
   * @throws DiagnosticError with all unknown names, conflicts and cycles
   */
  async plan(profile = 'production'): Promise<Plan> {
    const [{ FolderTree }, { listFiles }, { OutputRecord }] = await Promise.all([
      import('./files/folder-tree.js'),
      import('./files/list-files.js'),
      import('./outputs/record.js'),
    ]);
    const tree = new FolderTree(this.root);
    const { outputs, candidates } = OutputRecord.open(this.root);
    return this.#makePlan(profile, {
      root: this.root,
      owned: { has: (path) => outputs.has(path) || candidates.has(path) },
      list: (glob) => listFiles(tree, glob),
      problems: () => tree.problems(),
    });
  }

  /**
   * Builds pipelines and publishes their outputs.
   *
   * @returns a report; errors in sources are in the report, not thrown
   * @throws DiagnosticError if the project or the request is invalid, before anything is written
   */
  async build(options: BuildOptions = {}): Promise<BuildReport> {
    const { profile = 'production', pipelines = [], force = false, listen = () => undefined } = options;
    const signal = options.signal ?? new AbortController().signal;
    if (pipelines.length === 0 && !force && !signal.aborted) {
      const look = cachePath(storeFolder(this.root), 'look', this.file, profile);
      const report = checkUpToDate(look, this.root, this.#planHash, recordPath(this.root));
      if (report) {
        replayReport(report, listen);
        return report;
      }
    }
    return this.#withEngine((engine) =>
      engine.build(this.planSource(profile), {
        profile,
        pipelines,
        force,
        isFresh: false,
        isInteractive: false,
        signalOf: () => signal,
        tell: listen,
      }),
    );
  }

  /**
   * Lets the linters of checks with `fix` change their sources.
   *
   * @returns the changed sources, relative to the project
   * @throws DiagnosticError if the request is invalid, or a linter fails
   */
  async fix({ profile = 'production', pipelines = [] }: ForecastOptions = {}): Promise<readonly string[]> {
    const plan = await this.plan(profile);
    const [{ fixSources }, { selectPipelines }] = await Promise.all([
      import('./build/fix-sources.js'),
      import('./plan/plan.js'),
    ]);
    return fixSources(this.root, selectPipelines(plan, pipelines));
  }

  /**
   * Forecasts a build, with reasons, without running it.
   *
   * @throws DiagnosticError if the project or the request is wrong
   */
  async forecast({ profile = 'production', pipelines = [] }: ForecastOptions = {}): Promise<BuildForecast> {
    return this.#withEngine((engine) => engine.forecast(this.planSource(profile), profile, pipelines));
  }

  /**
   * Explains a path by the last build: for an output all files that contribute to it, for another file all outputs that
   * depend on it.
   *
   * @param path relative to the project
   * @param profile default: that of the last build
   * @throws DiagnosticError if no build knows the path
   */
  async why(path: string, profile?: string): Promise<OutputReasons | SourceReach> {
    return this.#withEngine(async (engine) => {
      const wanted = profile ?? engine.lastProfile(this.file, await this.profiles()) ?? 'production';
      return engine.explain(this.file, wanted, path);
    });
  }

  /**
   * Reports what the outputs of the last build are made of, what pages load, and what builds did.
   *
   * @param profile default: that of the last build
   * @throws DiagnosticError if there was no build
   */
  async report(profile?: string): Promise<SiteReport> {
    return this.#withEngine(async (engine) => {
      const wanted = profile ?? engine.lastProfile(this.file, await this.profiles()) ?? 'production';
      return engine.report(this.file, wanted);
    });
  }

  /**
   * Removes the outputs that the tool wrote; edited ones only with `force`, and those that are now sources never.
   *
   * @throws DiagnosticError if the project file is invalid
   */
  async clean({ force = false, store = false }: CleanOptions = {}): Promise<CleanReport> {
    const [{ FileTable }, { remove, saveRecord }, { OutputRecord, removeRecordFolder }] = await Promise.all([
      import('./files/file-table.js'),
      import('./outputs/publish.js'),
      import('./outputs/record.js'),
    ]);
    const record = OutputRecord.open(this.root);
    const files = new FileTable(this.root);
    record.removeTempFiles(files.boundary);
    const [{ adoptOutputs }, { isFormerOutput }] = await Promise.all([
      import('./outputs/adopt.js'),
      import('./plan/plan.js'),
    ]);
    if (record.candidates.size > 0) adoptOutputs(record, await this.plan());
    const plans = await Promise.all((await this.profiles()).map((profile) => this.plan(profile)));
    const place = { root: this.root, files, record, force };
    const written = [...record.outputs.keys()].filter((path) => !plans.some((plan) => isFormerOutput(plan, path)));
    const { removed, diagnostics } = remove(written, place);
    const problem = saveRecord(place);
    if (store) rmSync(storeFolder(this.root), { recursive: true, force: true });
    removeRecordFolder(this.root);
    return { removed, diagnostics: problem ? [...diagnostics, problem] : diagnostics };
  }

  /** Runs something with an engine. */
  #withEngine<T>(work: (engine: Engine) => Promise<T>): Promise<T> {
    return this.inFolder(async () => {
      const engine = await this.engine();
      try {
        return await work(engine);
      } finally {
        await engine.close();
      }
    });
  }

  /**
   * Runs something in the project folder.
   *
   * @throws DiagnosticError if it fails because the folder is gone
   */
  inFolder<T>(work: () => Promise<T>): Promise<T> {
    return this.#folder.during(work);
  }

  /** An engine for this project, which has to be closed. */
  async engine(isSession = false): Promise<Engine> {
    const [{ Engine: Made }, { stepCatalogue, steps }] = await Promise.all([
      import('./build/engine.js'),
      import('./steps/index.js'),
    ]);
    return new Made({
      folder: this.#folder,
      steps,
      catalogue: stepCatalogue,
      isReadOnly: this.isReadOnly,
      isSession,
      worker: fileURLToPath(new URL('worker.js', import.meta.url)),
      storeLimit: async () => (await this.#settings()).storeLimit,
    });
  }

  /** The source of the plan for an engine. */
  planSource(profile: string): PlanSource {
    return {
      file: this.file,
      configHash: this.#planHash,
      makePlan: (request) => this.#makePlan(profile, request),
    };
  }

  async #makePlan(profile: string, request: PlanInputs): Promise<Plan> {
    const [{ makePlan }, { resolveBrowsers }, { stepCatalogue: catalogue }] = await Promise.all([
      import('./plan/plan.js'),
      import('./config/browsers.js'),
      import('./steps/index.js'),
    ]);
    return makePlan(await this.#settings(), { ...request, profile, catalogue, resolve: resolveBrowsers });
  }

  /** The settings of the project file: those that an earlier run found right, or else checked now. */
  async #settings(): Promise<ProjectConfig> {
    if (this.#checked) return this.#checked;
    const { name, text } = this.place;
    const { stepCatalogue } = await import('./steps/index.js');
    const { toCachedConfig, fromCachedConfig } = await import('./config/config-cache.js');
    const cached = this.#cached();
    // Commands are only taken from the project file itself.
    const isTrusted = cached?.pipelines.every(({ steps }) =>
      steps.every(({ definition }) => !executingSteps.has(definition)),
    );
    if (cached && isTrusted) this.#checked = fromCachedConfig(cached, name, text, stepCatalogue);
    else {
      const [{ ProjectDocument }, { checkProject }] = await Promise.all([
        import('./config/document.js'),
        import('./config/project-config.js'),
      ]);
      this.#checked = checkProject(ProjectDocument.parse(name, text), stepCatalogue);
      if (!this.isReadOnly)
        writeJsonCache(this.#cachePath, cacheVersion, {
          configHash: this.#configHash,
          project: toCachedConfig(this.#checked),
        });
    }
    return this.#checked;
  }

  /** The validated project file that an earlier run has cached. */
  #cached(): CachedConfig | undefined {
    const cached = readJsonCache(this.#cachePath, cacheVersion) as
      { configHash: string; project: CachedConfig } | undefined;
    return cached?.configHash === this.#configHash ? cached.project : undefined;
  }

  get #cachePath(): string {
    return cachePath(storeFolder(this.root), 'plan', this.file);
  }
}
