import { existsSync } from 'node:fs';
import { join, posix } from 'node:path';
import { diagnostic, DiagnosticError, type Diagnostic } from '../diagnostics/index.js';
import type { BuildEvent, BuildReport } from '../build/report.js';
import { Changes, type ChangeSet } from './changes.js';
import type { Engine, PlanSource } from '../build/engine.js';
import { Watchlist } from './watchlist.js';
import { gitLockFile } from '../files/git.js';
import { FolderWatcher } from './watcher.js';
import { Project, type OpenOptions } from '../open.js';
import { findProject } from '../config/find.js';
import type { ServeConfig } from '../config/project-config.js';

/** What a session is opened with. */
export interface SessionOptions extends OpenOptions {
  /** `development` when it is left out. */
  readonly profile?: string | undefined;
  /** Names of pipelines; those that they wait for are built as well. All of them when it is left out. */
  readonly pipelines?: readonly string[] | undefined;
  /** Hears of everything that happens. */
  readonly listen?: ((event: SessionEvent) => void) | undefined;
}

/** What a session tells: of each round what changed, then what its build tells, then that it waits. */
export type SessionEvent =
  | BuildEvent
  | { readonly event: 'session-started'; readonly profile: string; readonly pipelines: readonly string[] }
  /** Files are different, have come or have gone; the project file may be among them, and outputs that are gone. */
  | { readonly event: 'changed'; readonly paths: readonly string[] }
  /** The project cannot be built as it is now: because of its file, whose last good state stays in use, or of its files. */
  | { readonly event: 'refused'; readonly isProjectFile: boolean; readonly diagnostics: readonly Diagnostic[] }
  /** Builds without errors again that had some. */
  | { readonly event: 'recovered'; readonly pipelines: readonly string[]; readonly isProjectFile: boolean }
  | { readonly event: 'waiting'; readonly folders: number; readonly isPolling: boolean };

/** How long it has to be quiet before a change is looked at, in milliseconds: alone, and when many come at once. */
const debounceMs = 4;
const burstDebounceMs = 50;

/** How long a file that was emptied is given to be written, in milliseconds. */
const emptyFileGraceMs = 60;

/** The longest that changes that go on are waited for, in milliseconds. */
const maxDebounceMs = 2000;

/** How often it is looked whether Git has finished changing files, and how long that is waited for, in milliseconds. */
const gitPollMs = 20;
const maxGitWaitMs = 15_000;

/** How often everything is looked at where the system cannot tell of changes, in milliseconds. */
const pollMs = 1000;

/** How long after a build what was found out is kept for later runs, in milliseconds: not between two saves. */
const saveDelayMs = 2000;

const nothing: ChangeSet = { paths: [], addedOrRemoved: [] };

/** What stands for errors of the project file, among pipelines with errors. */
const projectErrors = '';

/** The same for a plan that cannot be built. */
const planErrors = ' ';

/**
 * A project held open: builds, waits for changes, and builds what they reach, until it is closed. Nothing that goes
 * wrong in files ends it.
 */
export class Session {
  readonly #changes: Changes;
  readonly #watchlist: Watchlist;
  readonly #watcher: FolderWatcher;
  readonly #stop = new AbortController();
  /** For each pipeline of the build at work, what stops it. */
  #controllers = new Map<string, AbortController>();
  #wake: () => void = () => undefined;
  #debounceTimer: NodeJS.Timeout | undefined;
  #firstHint = 0;
  /** How many files were found empty or gone when that was last looked at. */
  #emptied = 0;
  /** What goes on while there is nothing to do, and what ends it. */
  #warmingUp: Promise<void> | undefined;
  #warmUpAbort = new AbortController();
  #isWarm = false;
  /** Whether pipelines of the last build were stopped. */
  #isUnfinished = false;
  #isSettled = false;
  #isBuilding = false;
  #isAskedForAll = false;
  #pollTimer: NodeJS.Timeout | undefined;
  #saveTimer: NodeJS.Timeout | undefined;
  /** What the watched folders were worked out from. */
  #scope = '';
  #changeSet: ChangeSet = nothing;
  /** The text of what was wrong with the project file, when it was told. */
  #projectProblem = '';
  /** Pipelines whose last build had errors. */
  #failing = new Set<string>();
  /** Outputs that builds of this session have removed, and the folders of these. */
  readonly #removed = new Set<string>();
  /** What was told as wrong in the last round. */
  #diagnostics: readonly Diagnostic[] = [];
  /** Whether anything was told since it was told that the session waits. */
  #hasEmitted = true;
  /** The file that is there while Git changes files. */
  readonly #gitLock: string | undefined;

  private constructor(
    private project: Project,
    private readonly engine: Engine,
    private readonly options: SessionOptions & { readonly profile: string },
  ) {
    this.#watcher = new FolderWatcher(project.root, {
      heard: (folder, name, isEntry) => this.#heard(folder, name, isEntry),
      limited: () => this.#poll(),
      lost: () => this.#hint(),
    });
    this.#watchlist = new Watchlist(engine.files, engine.tree);
    this.#changes = new Changes(
      engine.inputs,
      (path) => path === this.project.file,
      (path) => this.#watchlist.isAbove(path),
    );
    this.#gitLock = gitLockFile(project.root);
  }

  /**
   * Opens a session; `run` starts it.
   *
   * @throws DiagnosticError with every mistake of the project file
   */
  static async open(options: SessionOptions = {}): Promise<Session> {
    const project = await Project.open(options);
    return new Session(project, await project.engine(true), { ...options, profile: options.profile ?? 'development' });
  }

  /** The project folder, absolute. */
  get root(): string {
    return this.project.root;
  }

  /** What the development server is to do, by the last good project file. */
  serving(): Promise<ServeConfig | undefined> {
    return this.project.serving();
  }

  /** The content hash that each output was last given, by its path. */
  hashOf(output: string): string | undefined {
    return this.engine.record.outputs.get(output)?.hashes.at(-1);
  }

  /** The paths of all outputs. */
  get outputs(): Iterable<string> {
    return this.engine.record.outputs.keys();
  }

  /** What was wrong in the last round. */
  get diagnostics(): readonly Diagnostic[] {
    return this.#diagnostics;
  }

  /**
   * Builds what has changed while no session was open, then what changes, until `close`, or until the project folder is
   * gone.
   *
   * @returns whether it was closed
   * @throws DiagnosticError when the project or the request is wrong at the start
   */
  async run(): Promise<boolean> {
    try {
      const plan = await this.engine.plan(this.#planSource(), this.options.profile);
      const { name: profile } = plan.profile;
      this.#emit({ event: 'session-started', profile, pipelines: plan.pipelines.map((pipeline) => pipeline.name) });
      this.#watch();
      await this.#build();
      while (!this.#stop.signal.aborted) {
        this.#watch();
        if (!this.#changes.isEmpty) this.#hint();
        else if (!this.#isAskedForAll) this.#emitWaiting();
        await this.#nextChange();
        if (this.#stop.signal.aborted) break;
        if (!this.engine.isInPlace) {
          this.#emit({ event: 'diagnostic', diagnostic: diagnostic('project-gone', { folder: this.project.root }) });
          return false;
        }
        await this.#round();
      }
      return true;
    } finally {
      await this.dispose();
    }
  }

  /** Lets go of everything that is held open: for a session that is not to be run. */
  async dispose(): Promise<void> {
    clearTimeout(this.#debounceTimer);
    clearTimeout(this.#saveTimer);
    clearInterval(this.#pollTimer);
    this.#watcher.close();
    this.#warmUpAbort.abort();
    await this.#warmingUp;
    await this.engine.close();
  }

  /** Runs everything again, whatever is known of earlier builds. */
  rebuildAll(): void {
    this.#warmUpAbort.abort();
    this.#isAskedForAll = true;
    this.#isSettled = true;
    this.#stopBuild();
    this.#wake();
  }

  /** Ends the session in order: what is at work is stopped, and nothing is left half-written. */
  close(): void {
    this.#stop.abort();
    this.#stopBuild();
    this.#wake();
  }

  #planSource(): PlanSource {
    return this.project.ground(this.options.profile);
  }

  #emit(event: SessionEvent): void {
    this.#hasEmitted = true;
    this.options.listen?.(event);
  }

  /** Looks at what changed, and builds what that reaches. */
  async #round(): Promise<void> {
    const isAskedForAll = this.#isAskedForAll;
    this.#isAskedForAll = false;
    this.#isSettled = false;
    const { paths, addedOrRemoved } = this.#drain();
    if (isAskedForAll) this.#forgetAll();
    this.#changeSet = nothing;
    const { record } = this.engine;
    const isListed = addedOrRemoved.some((path) => !record.folders.has(path) && !this.#isOwn(path));
    const { file } = this.project;
    const isProject = await this.#reload();
    if (!this.#isThere(file)) return;
    const { outputs } = record;
    const own = paths.filter((path) => outputs.has(path));
    const changed = paths.filter((path) => path !== file && !this.#isOwn(path));
    // What the tool has written itself is no change, nor what others did to it; only an output that is gone is made anew.
    const gone = own.filter((path) => this.#isGone(path));
    const isUnfinished = this.#isUnfinished;
    if (!isAskedForAll && !isUnfinished && !isProject && !isListed && gone.length + changed.length === 0) return;
    const all = [...(isProject ? [file] : []), ...changed, ...gone];
    if (all.length > 0) this.#emit({ event: 'changed', paths: all });
    await this.#build(isAskedForAll);
  }

  /** Forgets everything about files and folders, and watches all of them anew. */
  #forgetAll(): void {
    this.engine.files.forgetAll();
    this.#watcher.close();
    this.#scope = '';
  }

  /** Whether a path is an output, or one that the tool has removed, here or in another process. */
  #isOwn(path: string): boolean {
    const { record } = this.engine;
    if (record.outputs.has(path) || this.#hasRemoved(path)) return true;
    if (!record.hasEverHeld(path) || this.#isThere(path)) return false;
    return this.engine.readersOf([path], this.project.file, this.options.profile).length === 0;
  }

  /** Whether a file or folder is gone because the session itself has removed outputs. */
  #hasRemoved(path: string): boolean {
    if (!this.#removed.has(path)) return false;
    if (this.#isThere(path)) this.#removed.delete(path);
    return this.#removed.has(path);
  }

  /** Takes note of outputs that were removed, and of the folders that went with them. */
  #noteRemoved(outputs: readonly string[]): void {
    for (const output of outputs) {
      this.#removed.add(output);
      // Where the project itself is gone, no folder above is there either.
      for (
        let folder = posix.dirname(output);
        folder !== '.' && !this.#isThere(folder);
        folder = posix.dirname(folder)
      ) {
        this.#removed.add(folder);
        this.#watcher.forget(folder);
      }
    }
  }

  #isThere(path: string): boolean {
    return existsSync(join(this.project.root, path));
  }

  /** Whether an output is gone that no other process of the tool has removed. */
  #isGone(path: string): boolean {
    if (this.engine.files.state(path) !== null) return false;
    this.engine.record.sync();
    return this.engine.record.outputs.has(path);
  }

  /**
   * Takes up the project file, if it is another one now; one that is wrong is told of, and the last good one stays.
   *
   * @returns whether there is another one
   */
  async #reload(): Promise<boolean> {
    const before = this.project.text;
    const { folder, config } = this.options;
    try {
      const isSame = findProject(folder ?? '.', config).text === before;
      if (isSame && !this.#failing.has(projectErrors)) return false;
      const project = await Project.open({ folder, config });
      this.#projectProblem = '';
      const hasRecovered = this.#failing.delete(projectErrors);
      if (hasRecovered) this.#emit({ event: 'recovered', pipelines: [project.file], isProjectFile: true });
      if (project.text === before || project.root !== this.project.root) return hasRecovered;
      this.project = project;
      return true;
    } catch (error) {
      if (!(error instanceof DiagnosticError)) throw error;
      const text = JSON.stringify(error.diagnostics);
      if (text !== this.#projectProblem) this.#reportConfigErrors(error.diagnostics, true);
      this.#projectProblem = text;
      return false;
    }
  }

  async #build(isFresh = false): Promise<void> {
    const { profile, pipelines = [] } = this.options;
    this.#isBuilding = true;
    this.#controllers = new Map();
    const signalOf = (name: string): AbortSignal => {
      const controller = this.#controllers.get(name) ?? new AbortController();
      this.#controllers.set(name, controller);
      if (this.#stop.signal.aborted) controller.abort();
      return controller.signal;
    };
    try {
      const tell = (event: BuildEvent): void => this.#emitBuild(event);
      const request = { profile, pipelines, force: false, isFresh, includeGzipSizes: false, signalOf, tell };
      const report = await this.engine.build(this.#planSource(), request);
      this.#diagnostics = report.diagnostics;
      this.#isUnfinished = report.pipelines.some((one) => one.state === 'interrupted');
      if (this.#isUnfinished) this.#hint();
    } catch (error) {
      if (!(error instanceof DiagnosticError)) throw error;
      this.#reportConfigErrors(error.diagnostics, false);
    } finally {
      this.#isBuilding = false;
    }
    clearTimeout(this.#saveTimer);
    this.#saveTimer = setTimeout(() => void this.engine.save(), saveDelayMs).unref();
  }

  /** A build that was stopped, because what it was making is obsolete, is no build with errors. */
  #emitBuild(event: BuildEvent): void {
    if (event.event === 'diagnostic' && event.diagnostic.code === 'interrupted') return;
    if (event.event === 'pipeline-done') this.#noteRemoved(event.report.removed);
    if (event.event === 'build-done') {
      this.#noteRemoved(event.report.removed);
      this.#emitRecovered(event.report);
    }
    this.#emit(event);
  }

  #reportConfigErrors(diagnostics: readonly Diagnostic[], isProjectFile: boolean): void {
    this.#diagnostics = diagnostics;
    this.#failing.add(isProjectFile ? projectErrors : planErrors);
    this.#emit({ event: 'refused', isProjectFile, diagnostics });
  }

  #emitRecovered({ pipelines }: BuildReport): void {
    // A project file that has errors itself is told of when these are fixed.
    if (this.#failing.delete(planErrors) && !this.#failing.has(projectErrors))
      this.#emit({ event: 'recovered', pipelines: [this.project.file], isProjectFile: true });
    const recovered: string[] = [];
    for (const { name, state } of pipelines) {
      const isStopped = this.#controllers.get(name)?.signal.aborted ?? false;
      if (state === 'built' && this.#failing.delete(name)) recovered.push(name);
      else if (state !== 'built' && !isStopped) this.#failing.add(name);
    }
    if (recovered.length > 0) this.#emit({ event: 'recovered', pipelines: recovered, isProjectFile: false });
  }

  #emitWaiting(): void {
    if (!this.#isWarm) this.#warmingUp ??= this.#warmUp();
    if (!this.#hasEmitted) return;
    this.#emit({ event: 'waiting', folders: this.#watcher.size, isPolling: this.#pollTimer !== undefined });
    this.#hasEmitted = false;
  }

  /** Gets ready for the next changes, until there is one. */
  async #warmUp(): Promise<void> {
    const { signal } = (this.#warmUpAbort = new AbortController());
    // What cannot be made ready now says so when it is needed.
    await this.engine.warmUp(this.project.file, this.options.profile, signal).catch(() => undefined);
    this.#isWarm = !signal.aborted;
    this.#warmingUp = undefined;
  }

  /** Watches every folder that counts; what happened in new ones before they were watched is looked for. */
  #watch(): void {
    const { files, tree } = this.engine;
    const scope = `${String(files.scope)} ${String(tree.scope)} ${this.project.file}`;
    if (this.#pollTimer || (scope === this.#scope && !this.#watcher.hasLost)) return;
    this.#scope = scope;
    this.#changes.noteFolders(this.#watcher.watch(this.#watchlist.folders(this.project.file)));
    this.#watcher.watchFiles(files.hardLinked);
    if (!this.#changes.isEmpty) this.#hint();
  }

  /** Looks at everything every second, because the system lets this process watch no more. */
  #poll(): void {
    this.#watcher.close();
    const look = (): void => {
      this.#changes.noteAll();
      this.#hint();
    };
    this.#pollTimer ??= setInterval(look, pollMs);
    this.#emit({ event: 'diagnostic', diagnostic: diagnostic('watch-limit', { seconds: pollMs / 1000 }) });
  }

  /** Waits until there is something to do. */
  #nextChange(): Promise<void> {
    return new Promise((wake) => {
      this.#wake = wake;
      if (this.#isSettled || this.#stop.signal.aborted) wake();
    });
  }

  #heard(folder: string, name: string | undefined, isEntry: boolean): void {
    let matters = this.#changes.note(folder, name, isEntry);
    if (name !== undefined)
      for (const link of this.#watchlist.linksTo(posix.join(folder, name)))
        if (this.#changes.note(posix.dirname(link), posix.basename(link), isEntry)) matters = true;
    // What the build at work writes itself is looked at after it: looking now would only hold it up.
    const isWritten =
      this.#isBuilding && name !== undefined && this.engine.record.outputs.has(posix.join(folder, name));
    if (matters && !isWritten) this.#hint();
  }

  /** Something may have changed: it is looked at as soon as it is quiet. */
  #hint(): void {
    this.#warmUpAbort.abort();
    const now = performance.now();
    if (!this.#debounceTimer) {
      this.#firstHint = now;
      this.#emptied = 0;
    }
    clearTimeout(this.#debounceTimer);
    const wait = this.#changes.isBurst ? burstDebounceMs : debounceMs;
    const left = Math.max(0, maxDebounceMs - (now - this.#firstHint));
    this.#debounceTimer = setTimeout(() => this.#settle(), Math.min(wait, left));
  }

  #settle(): void {
    if (this.#isGitAtWork()) {
      this.#debounceTimer = setTimeout(() => this.#settle(), gitPollMs);
      return;
    }
    // While more files go, as when a branch is changed or the project is removed, it is not the time to build.
    const emptied = this.#changes.countEmptied();
    const isLate = performance.now() - this.#firstHint > maxDebounceMs;
    if (emptied > this.#emptied && !isLate) {
      this.#emptied = emptied;
      this.#debounceTimer = setTimeout(() => this.#settle(), emptyFileGraceMs);
      return;
    }
    this.#debounceTimer = undefined;
    this.#isSettled = true;
    if (this.#isBuilding) this.#stopObsolete();
    this.#wake();
  }

  /** Whether Git is changing files; a lock that stays is one that it has left behind. */
  #isGitAtWork(): boolean {
    const waited = performance.now() - this.#firstHint;
    return this.#gitLock !== undefined && waited < maxGitWaitMs && existsSync(this.#gitLock);
  }

  /** Looks at what changed during a build, and stops the pipelines at work that read it. */
  #stopObsolete(): void {
    const { outputs } = this.engine.record;
    // What a pipeline has just written is waited for by those that read it.
    const paths = this.#drain().paths.filter((path) => !outputs.has(path));
    const { file } = this.project;
    for (const name of this.engine.readersOf(paths, file, this.options.profile)) this.#controllers.get(name)?.abort();
  }

  /** Looks at everything that was hinted at, and adds it to what was found before and not built yet. */
  #drain(): ChangeSet {
    const { paths, addedOrRemoved } = this.#changes.drain(this.#watcher);
    this.#changeSet = {
      paths: [...new Set([...this.#changeSet.paths, ...paths])].sort(),
      addedOrRemoved: [...new Set([...this.#changeSet.addedOrRemoved, ...addedOrRemoved])],
    };
    return this.#changeSet;
  }

  #stopBuild(): void {
    for (const controller of this.#controllers.values()) controller.abort();
  }
}
