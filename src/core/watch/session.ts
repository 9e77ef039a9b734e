import { existsSync } from 'node:fs';
import { join, posix } from 'node:path';
import type { Engine, NamedFile, PlanSource } from '../build/engine.js';
import type { BuildEvent, BuildReport } from '../build/report.js';
import { findProject } from '../config/find.js';
import type { ServeConfig } from '../config/project-config.js';
import { diagnostic, DiagnosticError, type Diagnostic } from '../diagnostics/index.js';
import { gitLockFile } from '../files/git.js';
import { isEditorFile } from '../files/temp-file.js';
import { Project, type OpenOptions } from '../open.js';
import { ChangeQueue } from './change-queue.js';
import { Changes } from './changes.js';
import { Debouncer } from './debouncer.js';
import { Failures } from './failures.js';
import { RemovedOutputs } from './removed-outputs.js';
import type { SessionEvent } from './session-event.js';
import { timing } from './timing.js';
import { FolderWatcher } from './watcher.js';
import { Watchlist } from './watchlist.js';

/** Options of a session. */
export interface SessionOptions extends OpenOptions {
  /** Default: `development`. */
  readonly profile?: string | undefined;
  /** Names of pipelines, which are built with those they depend on. Default: all. */
  readonly pipelines?: readonly string[] | undefined;
  /** True if reports contain the gzip sizes of outputs, which take time. */
  readonly needsGzip?: boolean | undefined;
  /** Called for every event. */
  readonly listen?: ((event: SessionEvent) => void) | undefined;
}

/**
 * The states of a session.
 *
 * - `idle`: waits for changes.
 * - `warming-up`: waits for changes, and loads compilers meanwhile.
 * - `debouncing`: something changed; waits until changes stop arriving.
 * - `building`: runs a build. Changes that arrive meanwhile are debounced too, and stop the pipelines they affect.
 * - `stopping`: is being closed.
 */
export type SessionState = 'idle' | 'warming-up' | 'debouncing' | 'building' | 'stopping';

const transitions: Readonly<Record<SessionState, readonly SessionState[]>> = {
  idle: ['warming-up', 'debouncing', 'building', 'stopping'],
  'warming-up': ['idle', 'debouncing', 'building', 'stopping'],
  debouncing: ['building', 'idle', 'stopping'],
  building: ['idle', 'debouncing', 'stopping'],
  stopping: [],
};

/** An open project: builds, waits for changes, and rebuilds what they affect, until it is closed. */
export class Session {
  #state: SessionState = 'idle';
  readonly #changes: Changes;
  readonly #queue: ChangeQueue;
  readonly #debouncer: Debouncer;
  readonly #watchlist: Watchlist;
  readonly #watcher: FolderWatcher;
  readonly #failures = new Failures();
  readonly #removedOutputs: RemovedOutputs;
  /** The abort controllers of the pipelines of the current build. */
  #controllers = new Map<string, AbortController>();
  /** Ends the wait for something to do. */
  #wake: () => void = () => undefined;
  /** True if changes have settled that no build has begun for. */
  #hasSettled = false;
  #warmUpAbort = new AbortController();
  #warmUp: Promise<void> | undefined;
  #isWarm = false;
  /** True if pipelines of the last build were aborted. */
  #isUnfinished = false;
  #isFullRebuildRequested = false;
  /** True while the outputs of the current build are in place, and checks still run. */
  #isPublished = false;
  #pollTimer: NodeJS.Timeout | undefined;
  #saveTimer: NodeJS.Timeout | undefined;
  /** The versions of files and folders that the watched folders were derived from. */
  #watchScope = '';
  /** The last reported errors of the project file, as text. */
  #configErrors = '';
  #diagnostics: readonly Diagnostic[] = [];
  /** True if anything was emitted since the last `waiting`. */
  #hasEmitted = true;

  private constructor(
    private project: Project,
    private readonly engine: Engine,
    private readonly options: SessionOptions & { readonly profile: string },
  ) {
    this.#watcher = new FolderWatcher(project.root, {
      heard: (folder, name, isEntry) => this.#noteChange(folder, name, isEntry),
      limited: () => this.#startPolling(),
      lost: () => this.#hint(),
    });
    this.#watchlist = new Watchlist(engine.files, engine.tree);
    this.#changes = new Changes(
      engine.inputs,
      (path) => path === this.project.file,
      (path) => this.#watchlist.isAbove(path),
    );
    this.#queue = new ChangeQueue(this.#changes, this.#watcher);
    this.#debouncer = new Debouncer(this.#changes, gitLockFile(project.root), () => this.#settle());
    this.#removedOutputs = new RemovedOutputs(project.root);
  }

  /**
   * Opens a session; `run` starts it.
   *
   * @throws DiagnosticError with every mistake in the project file
   */
  static async open(options: SessionOptions = {}): Promise<Session> {
    const project = await Project.open(options);
    const profile = options.profile ?? 'development';
    return project.inFolder(async () => new Session(project, await project.engine(true), { ...options, profile }));
  }

  /** The project folder, absolute. */
  get root(): string {
    return this.project.root;
  }

  get state(): SessionState {
    return this.#state;
  }

  /** Settings of the development server, from the last valid project file. */
  serving(): Promise<ServeConfig | undefined> {
    return this.project.serving(this.options.profile);
  }

  /** The content hash that an output was last written with. */
  hashOf(output: string): string | undefined {
    return this.engine.record.outputs.get(output)?.hashes.at(-1);
  }

  /** The outputs of the last build by the paths that references mean; undefined if none has a hash in its name. */
  get names(): ReadonlyMap<string, NamedFile> | undefined {
    return this.engine.names(this.project.file, this.options.profile);
  }

  /** The paths of all outputs. */
  get outputs(): Iterable<string> {
    return this.engine.record.outputs.keys();
  }

  /** The diagnostics of the last round. */
  get diagnostics(): readonly Diagnostic[] {
    return this.#diagnostics;
  }

  /**
   * Builds pending changes, then rebuilds after each change, until `close` is called or the project folder is removed.
   *
   * @returns whether it was closed
   * @throws DiagnosticError if the project or the options are invalid at the start
   */
  async run(): Promise<boolean> {
    try {
      const plan = await this.engine.plan(this.#planSource(), this.options.profile);
      const { name: profile } = plan.profile;
      this.#emit({ event: 'session-started', profile, pipelines: plan.pipelines.map((pipeline) => pipeline.name) });
      this.#watch();
      await this.#build();
      while (!this.#isStopping) {
        if (!this.engine.isInPlace) return this.#noteGone();
        this.#watch();
        if (!this.#changes.isEmpty) this.#hint();
        else if (!this.#isFullRebuildRequested) this.#wait();
        await this.#somethingToDo();
        if (this.#isStopping) break;
        if (this.engine.isInPlace) await this.#round();
      }
      return true;
    } catch (error) {
      if (error instanceof DiagnosticError || this.engine.isInPlace) throw error;
      // What a system reports of a folder that is gone depends on what was done at that moment.
      return this.#noteGone();
    } finally {
      await this.dispose();
    }
  }

  #noteGone(): false {
    this.#emit({ event: 'diagnostic', diagnostic: diagnostic('project-gone', { folder: this.project.root }) });
    return false;
  }

  /** Releases everything that is held open: for a session that is not run. */
  async dispose(): Promise<void> {
    this.#enter('stopping');
    this.#debouncer.close();
    clearTimeout(this.#saveTimer);
    clearInterval(this.#pollTimer);
    this.#watcher.close();
    this.#warmUpAbort.abort();
    await this.#warmUp;
    await this.engine.close();
  }

  /** Runs every job again, regardless of the cache. */
  rebuildAll(): void {
    this.#warmUpAbort.abort();
    this.#isFullRebuildRequested = true;
    this.#hasSettled = true;
    this.#abortBuild();
    this.#wake();
  }

  /** Ends the session: a running build is aborted, and no output is left incomplete. */
  close(): void {
    this.#enter('stopping');
    this.#abortBuild();
    this.#wake();
  }

  get #isStopping(): boolean {
    return this.#state === 'stopping';
  }

  /** Enters a state, if that is a valid transition: a session that is stopping does not leave that state. */
  #enter(state: SessionState): void {
    if (transitions[this.#state].includes(state)) this.#state = state;
  }

  #planSource(): PlanSource {
    return this.project.planSource(this.options.profile);
  }

  #emit(event: SessionEvent): void {
    this.#hasEmitted = true;
    this.options.listen?.(event);
  }

  /** Processes the changes since the last round, and builds what they affect. */
  async #round(): Promise<void> {
    const isFresh = this.#isFullRebuildRequested;
    this.#isFullRebuildRequested = false;
    this.#hasSettled = false;
    const { paths, added, addedOrRemoved } = this.#queue.take();
    if (isFresh) this.#forgetAll();
    const { record } = this.engine;
    const isListed = addedOrRemoved.some((path) => !record.folders.has(path) && !this.#isOwn(path));
    const { file } = this.project;
    const isProject = await this.#reload();
    if (!this.#isThere(file)) return this.#enter('idle');
    const own = paths.filter((path) => record.outputs.has(path));
    const changed = paths.filter((path) => path !== file && !this.#isOwn(path));
    // Neither the tool's own writes nor edits of its outputs are changes; only a missing output is written again.
    const missing = own.filter((path) => this.#isMissing(path));
    const isTriggered = isFresh || this.#isUnfinished || isProject || isListed || missing.length + changed.length > 0;
    if (!isTriggered) return this.#enter('idle');
    const named = [...(isProject ? [file] : []), ...(await this.#relevant(changed)), ...missing];
    if (named.length > 0)
      this.#emit({
        event: 'changed',
        paths: named,
        added: added.filter((path) => named.includes(path) && this.#isThere(path)),
        removed: named.filter((path) => !this.#isThere(path)),
      });
    await this.#build(isFresh);
  }

  /** The paths among some that pipelines read: editors create other files beside them. */
  async #relevant(paths: readonly string[]): Promise<string[]> {
    const sources = new Set<string>();
    try {
      const { pipelines } = await this.engine.plan(this.#planSource(), this.options.profile);
      for (const pipeline of pipelines) for (const { path } of pipeline.sources) sources.add(path);
    } catch (error) {
      // The build reports the errors of the plan.
      if (!(error instanceof DiagnosticError)) throw error;
    }
    const { files } = this.engine;
    return paths.filter((path) => !isEditorFile(posix.basename(path)) && (sources.has(path) || files.knows(path)));
  }

  /** Forgets everything about files and folders, and watches all of them again. */
  #forgetAll(): void {
    this.engine.files.forgetAll();
    this.#watcher.close();
    this.#watchScope = '';
  }

  /** Reports whether a path is an output, or one that the tool has removed, here or in another process. */
  #isOwn(path: string): boolean {
    const { record } = this.engine;
    if (record.outputs.has(path) || this.#removedOutputs.has(path)) return true;
    if (!record.hasEverHeld(path) || this.#isThere(path)) return false;
    return this.engine.readersOf([path], this.project.file, this.options.profile).length === 0;
  }

  #isThere(path: string): boolean {
    return existsSync(join(this.project.root, path));
  }

  /** Reports whether an output is missing that no other process of the tool has removed. */
  #isMissing(path: string): boolean {
    if (this.engine.files.state(path) !== null) return false;
    this.engine.record.sync();
    return this.engine.record.outputs.has(path);
  }

  /**
   * Reads the project file, if it has changed; while it is invalid, its last valid version remains in use.
   *
   * @returns whether there is a new valid version
   */
  async #reload(): Promise<boolean> {
    const before = this.project.text;
    const { folder, config } = this.options;
    try {
      const isSame = findProject(folder ?? '.', config).text === before;
      if (isSame && !this.#failures.isConfigInvalid) return false;
      const project = await Project.open({ folder, config });
      this.#configErrors = '';
      const hasRecovered = this.#failures.fixConfig();
      if (hasRecovered) this.#emit({ event: 'recovered', pipelines: [project.file], isProjectFile: true });
      if (project.text === before || project.root !== this.project.root) return hasRecovered;
      this.project = project;
      return true;
    } catch (error) {
      if (!(error instanceof DiagnosticError)) throw error;
      const text = JSON.stringify(error.diagnostics);
      this.#failures.noteConfig();
      if (text !== this.#configErrors) this.#reportConfigErrors(error.diagnostics, true);
      this.#configErrors = text;
      return false;
    }
  }

  async #build(isFresh = false): Promise<void> {
    const { profile, pipelines = [] } = this.options;
    this.#isPublished = false;
    this.#enter('building');
    this.#controllers = new Map();
    const signalOf = (name: string): AbortSignal => {
      const controller = this.#controllers.get(name) ?? new AbortController();
      this.#controllers.set(name, controller);
      if (this.#isStopping) controller.abort();
      return controller.signal;
    };
    try {
      const tell = (event: BuildEvent): void => this.#emitBuildEvent(event);
      const { needsGzip = false } = this.options;
      const request = { profile, pipelines, force: false, isFresh, isInteractive: true, needsGzip, signalOf, tell };
      const report = await this.engine.build(this.#planSource(), request);
      this.#diagnostics = report.diagnostics;
      this.#isUnfinished = report.pipelines.some((one) => one.state === 'interrupted');
    } catch (error) {
      if (!(error instanceof DiagnosticError)) throw error;
      this.#failures.notePlan();
      this.#reportConfigErrors(error.diagnostics, false);
    } finally {
      this.#isPublished = false;
      this.#enter(this.#debouncer.isActive ? 'debouncing' : 'idle');
    }
    if (this.#isUnfinished) this.#hint();
    clearTimeout(this.#saveTimer);
    this.#saveTimer = setTimeout(() => void this.engine.save(), timing.saveDelayMs).unref();
  }

  /** Passes on an event of a build; a build that was aborted because it was out of date is no build with errors. */
  #emitBuildEvent(event: BuildEvent): void {
    if (event.event === 'diagnostic' && event.diagnostic.code === 'interrupted') return;
    if (event.event === 'pipeline-done') this.#noteRemoved(event.report.removed);
    if (event.event === 'published') this.#isPublished = true;
    if (event.event === 'build-done') {
      this.#noteRemoved(event.report.removed);
      this.#emitRecovered(event.report);
    }
    this.#emit(event);
  }

  #noteRemoved(outputs: readonly string[]): void {
    this.#removedOutputs.note(outputs, (folder) => this.#watcher.forget(folder));
  }

  #reportConfigErrors(diagnostics: readonly Diagnostic[], isProjectFile: boolean): void {
    this.#diagnostics = diagnostics;
    this.#emit({ event: 'config-error', isProjectFile, diagnostics });
  }

  #emitRecovered({ pipelines }: BuildReport): void {
    if (this.#failures.fixPlan())
      this.#emit({ event: 'recovered', pipelines: [this.project.file], isProjectFile: true });
    const isAborted = (name: string): boolean => this.#controllers.get(name)?.signal.aborted ?? false;
    const recovered = this.#failures.notePipelines(pipelines, isAborted);
    if (recovered.length > 0) this.#emit({ event: 'recovered', pipelines: recovered, isProjectFile: false });
  }

  /** Begins to wait for changes. */
  #wait(): void {
    if (!this.#debouncer.isActive) this.#enter('idle');
    if (!this.#isWarm) this.#warmUp ??= this.#runWarmUp();
    if (!this.#hasEmitted) return;
    this.#emit({ event: 'waiting', folders: this.#watcher.size, isPolling: this.#pollTimer !== undefined });
    this.#hasEmitted = false;
  }

  /** Loads compilers for the next changes, until there is one. */
  async #runWarmUp(): Promise<void> {
    this.#enter('warming-up');
    const { signal } = (this.#warmUpAbort = new AbortController());
    // A compiler that cannot be loaded now reports that when it is needed.
    await this.engine.warmUp(this.project.file, this.options.profile, signal).catch(() => undefined);
    this.#isWarm = !signal.aborted;
    this.#warmUp = undefined;
    if (this.#state === 'warming-up') this.#enter('idle');
  }

  /** Watches all relevant folders, and checks new ones for changes before they were watched. */
  #watch(): void {
    const { files, tree } = this.engine;
    const scope = `${String(files.scope)} ${String(tree.scope)} ${this.project.file}`;
    if (this.#pollTimer || (scope === this.#watchScope && !this.#watcher.hasLost)) return;
    this.#watchScope = scope;
    this.#changes.noteFolders(this.#watcher.watch(this.#watchlist.folders(this.project.file)));
    this.#watcher.watchFiles(files.hardLinked);
    if (!this.#changes.isEmpty) this.#hint();
  }

  /** Polls all files, because the system does not allow this process to watch more folders. */
  #startPolling(): void {
    this.#watcher.close();
    const poll = (): void => {
      this.#changes.noteAll();
      this.#hint();
    };
    this.#pollTimer ??= setInterval(poll, timing.pollMs);
    this.#emit({ event: 'diagnostic', diagnostic: diagnostic('watch-limit', { seconds: timing.pollMs / 1000 }) });
  }

  /** Waits until changes have settled, a full rebuild is requested, or the session is closed. */
  #somethingToDo(): Promise<void> {
    return new Promise((wake) => {
      this.#wake = wake;
      if (this.#hasSettled || this.#isStopping) wake();
    });
  }

  #noteChange(folder: string, name: string | undefined, isEntry: boolean): void {
    let matters = this.#changes.note(folder, name, isEntry);
    if (name !== undefined)
      for (const link of this.#watchlist.linksTo(posix.join(folder, name)))
        if (this.#changes.note(posix.dirname(link), posix.basename(link), isEntry)) matters = true;
    // Outputs of the current build are checked after it; checking them now would only delay it.
    const isWritten =
      this.#state === 'building' && name !== undefined && this.engine.record.outputs.has(posix.join(folder, name));
    if (matters && !isWritten) this.#hint();
  }

  /** Something may have changed: it is handled when changes have stopped arriving. */
  #hint(): void {
    if (this.#isStopping) return;
    this.#warmUpAbort.abort();
    if (this.#state !== 'building') this.#enter('debouncing');
    this.#debouncer.hint();
  }

  #settle(): void {
    this.#hasSettled = true;
    if (this.#state === 'building') this.#abortObsolete();
    this.#wake();
  }

  /** Aborts the pipelines of the current build that have read files which have changed since. */
  #abortObsolete(): void {
    const { outputs } = this.engine.record;
    // The readers of a pipeline's new outputs wait for it.
    const paths = this.#queue.peek().paths.filter((path) => !outputs.has(path));
    // Changes do not wait for checks.
    if (this.#isPublished && paths.some((path) => !this.#isOwn(path))) return this.#abortBuild();
    const { file } = this.project;
    for (const name of this.engine.readersOf(paths, file, this.options.profile)) this.#controllers.get(name)?.abort();
  }

  #abortBuild(): void {
    for (const controller of this.#controllers.values()) controller.abort();
  }
}
