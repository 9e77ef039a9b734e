import { posix } from 'node:path';
import type { Diagnostic, Place } from '../diagnostics/index.js';
import { placeIn, type Asset } from '../assets/asset.js';
import type { Command, CommandResult, Resource, SettingName, StepContext, StepEnvironment } from '../assets/context.js';
import type { Inputs } from '../build/inputs.js';
import { literalPath } from '../files/globs.js';
import { mergeConflictIn } from '../files/merge-conflict.js';
import { envHash } from '../files/env-hash.js';
import { errorPlace, importPackage, importProjectModule, packageEntry } from './project-module.js';
import { runCommand } from './run-command.js';
import { resolveSpecifier, type ResolutionOptions } from './node-resolution.js';
import { Secrets } from './secrets.js';
import { constantRead, trackedConstants } from './tracked-constants.js';
import type { RunResources } from './resources.js';
import type { Read } from '../cache/trace.js';

/** A source after the earlier steps of a pipeline, with everything that its jobs have read and reported. */
export interface LoadedAsset {
  /** Undefined if one of the steps has reported an error. */
  readonly asset: Asset | undefined;
  readonly reads: readonly Read[];
  readonly diagnostics: readonly Diagnostic[];
}

/** A job that has run, with its times in milliseconds since the epoch. */
export interface RanJob {
  readonly step: string;
  /** The source of its first asset. */
  readonly file?: string;
  readonly start: number;
  readonly end: number;
  /** Undefined if it waited for another program. */
  readonly thread?: number;
}

/** What a job can know of its pipeline. */
export interface PipelineView {
  /** Loads a source; undefined if the file does not exist. */
  load(source: string): Promise<LoadedAsset | undefined>;
  /** The folder that the paths of assets are relative to. */
  readonly to: string;
  /** Shows a line that a command of the step has written. */
  readonly show?: (line: string) => void;
  /** Called with the time that a job has taken. */
  readonly ran?: (job: RanJob) => void;
  /** Keeps a line that a command of the step has written in a file. */
  readonly log?: (line: string) => void;
}

/** Thrown where a step needs its pipeline, which only the main thread has. */
export class NoPipelineError extends Error {}

const noPipeline: PipelineView = {
  load() {
    throw new NoPipelineError('a step that loads other sources has to declare `loads`');
  },
  get to(): string {
    throw new NoPipelineError('a step that looks at its pipeline has to declare `loads`');
  },
};

/** The step context of one job: records everything that the job reads. */
export class JobContext implements StepContext {
  readonly diagnostics: Diagnostic[] = [];
  readonly emitted: Asset[] = [];
  /** The merge conflicts in files, by path. */
  readonly conflicts = new Map<string, Diagnostic>();
  /** True if source maps are needed to locate a diagnostic. */
  needsSourceMap = false;
  /** True if a file was created or deleted while the job ran, so that its reads are inconsistent. */
  sawInconsistentFiles = false;
  readonly #reads = new Map<string, Read>();
  readonly #bytes = new Map<string, Uint8Array | undefined>();
  #settings: StepEnvironment | undefined;
  #secrets: Secrets | undefined;

  constructor(
    private readonly environment: StepEnvironment,
    readonly signal: AbortSignal,
    private readonly inputs: Inputs,
    private readonly resources: RunResources,
    private readonly pipeline: PipelineView = noPipeline,
  ) {}

  /**
   * Restricts the settings to those that the step has declared.
   *
   * @param tracksConstants true to record which constants it reads
   */
  declare(names: ReadonlySet<SettingName>, tracksConstants: boolean): void {
    const isDeclared = (name: SettingName): boolean => names.has(name);
    const { constants } = this.environment;
    const settings = tracksConstants ? { ...this.environment, constants: this.#tracked(constants) } : this.environment;
    this.#settings = new Proxy(settings, {
      get(settings, name: SettingName) {
        if (!isDeclared(name)) throw new Error(`the step reads the setting \`${name}\` without declaring it`);
        return settings[name];
      },
    });
  }

  #tracked(constants: StepEnvironment['constants']): StepEnvironment['constants'] {
    return trackedConstants(constants, (name) => {
      this.#reads.set(`constant ${name}`, constantRead(name, constants));
    });
  }

  get settings(): StepEnvironment {
    return this.#settings ?? this.environment;
  }

  /** The secret constants of the profile. */
  get secrets(): Secrets {
    return (this.#secrets ??= new Secrets(this.environment));
  }

  get root(): string {
    return this.inputs.files.root;
  }

  /** Everything that was read so far, by kind and path. */
  get reads(): readonly Read[] {
    const reads = [...this.#reads.values()];
    // Reading a file also depends on its existence.
    const isCovered = ([kind, path]: Read): boolean => kind === 'presence' && this.#reads.has(`file ${path}`);
    return reads.filter((read) => !isCovered(read)).sort(([a, b], [c, d]) => (a + b < c + d ? -1 : 1));
  }

  read(path: string): Uint8Array | undefined {
    // A job sees one state of each file, even if it changes in the meantime.
    if (this.#bytes.has(path)) return this.#bytes.get(path);
    this.#reads.set(`file ${path}`, ['file', path, this.inputs.files.state(path)]);
    const file = this.inputs.files.read(path);
    this.#reads.set(`file ${path}`, ['file', path, file?.hash ?? null]);
    this.#bytes.set(path, file?.bytes);
    if (file) this.noteConflict(file.bytes, path);
    const presence = this.#reads.get(`presence ${path}`);
    if (presence && presence[2] !== (file !== undefined)) this.sawInconsistentFiles = true;
    return file?.bytes;
  }

  /** Reports a merge conflict in a file instead of anything else. */
  noteConflict(bytes: Uint8Array, path: string): void {
    const conflict = path.includes('node_modules/') ? undefined : mergeConflictIn(bytes, path);
    if (conflict) this.conflicts.set(path, conflict);
  }

  trackWritten(glob: string): readonly string[] {
    const literal = literalPath(glob);
    if (literal === undefined) this.inputs.refreshFolders();
    const paths = literal === undefined ? this.list(glob) : [literal];
    for (const path of paths) {
      this.inputs.files.noteChange(path);
      this.track(path);
    }
    return paths.filter((path) => this.inputs.files.state(path) !== null);
  }

  track(path: string): void {
    this.inputs.files.track(path);
    this.#reads.set(`file ${path}`, ['file', path, this.inputs.files.state(path)]);
  }

  exists(path: string): boolean {
    if (this.#bytes.has(path)) return this.#bytes.get(path) !== undefined;
    const isThere = this.inputs.files.exists(path);
    this.#reads.set(`presence ${path}`, ['presence', path, isThere]);
    return isThere;
  }

  list(glob: string): readonly string[] {
    this.#reads.set(`list ${glob}`, ['list', glob, this.inputs.listHash(glob)]);
    return this.inputs.list(glob);
  }

  resolve(specifier: string, from: string, options?: ResolutionOptions): string | false | undefined {
    const found = resolveSpecifier(specifier, from, this, options);
    // A module is one file, whatever links lead to it (Node.js documentation, "ESM resolution algorithm").
    return typeof found === 'string' ? this.inputs.files.boundary.realPathOf(found) : found;
  }

  async load(source: string): Promise<Asset | undefined> {
    this.#reads.set(`file ${source}`, ['file', source, this.inputs.files.state(source)]);
    const loaded = await this.pipeline.load(source);
    for (const read of loaded?.reads ?? []) this.#reads.set(`${read[0]} ${read[1]}`, read);
    for (const one of loaded?.diagnostics ?? []) this.report(one);
    return loaded?.asset;
  }

  publishes(path: string): boolean {
    const output = posix.join(this.pipeline.to, path);
    const isClaimed = this.inputs.isClaimed(output);
    this.#reads.set(`claim ${output}`, ['claim', output, isClaimed]);
    return isClaimed;
  }

  env(name: string): string | undefined {
    this.#reads.set(`env ${name}`, ['env', name, envHash(name)]);
    return process.env[name];
  }

  execute(command: Command): Promise<CommandResult> {
    const log = (line: string): void => {
      if (command.isLogged === true) this.pipeline.log?.(this.secrets.masked(line));
    };
    const show = (line: string): void => {
      this.pipeline.show?.(this.secrets.masked(line));
      log(line);
    };
    log(`> ${command.words.join(' ')}`);
    return runCommand(command, { root: this.inputs.files.root, signal: this.signal, show });
  }

  importModule(path: string, contents: ReadonlyMap<string, string>): Promise<object> {
    return importProjectModule(this.inputs.files.root, path, contents);
  }

  importPackage(name: string, from: string, contents: ReadonlyMap<string, string>): Promise<unknown> {
    return importPackage(this.inputs.files.root, name, from, contents);
  }

  packageEntry(name: string, from: string): string | undefined {
    return packageEntry(this.root, name, from);
  }

  placeOfError(error: unknown): ReturnType<StepContext['placeOfError']> {
    return errorPlace(error, this.inputs.files.root);
  }

  emit(asset: Asset): void {
    this.emitted.push(asset);
  }

  report(diagnostic: Diagnostic): void {
    this.diagnostics.push(diagnostic);
  }

  place(asset: Asset, text: string, start: number, end: number): Place {
    const { place, exact } = placeIn(asset, text, start, end);
    if (!exact) this.needsSourceMap = true;
    return place;
  }

  resource<T extends Resource>(name: string, make: () => Promise<T>): Promise<T> {
    return this.resources.get(name, make);
  }
}
