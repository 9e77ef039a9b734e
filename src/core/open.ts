import { fileURLToPath } from 'node:url';
import type { Diagnostic } from './diagnostics/index.js';
import type { BuildEvent, BuildReport } from './engine/build.js';
import { Engine, type PlanGround } from './engine/engine.js';
import { keepValue, keptValue } from './engine/keep.js';
import { storeFolder } from './engine/store-folder.js';
import { FileTable } from './files/file-table.js';
import { FolderTree } from './files/folder-tree.js';
import { listFiles } from './files/globs.js';
import { contentHash } from './files/hash.js';
import { remove, saveRecord } from './files/publish.js';
import { OutputRecord, removeRecordFolder } from './files/record.js';
import { findProject, type ProjectFile } from './project/find.js';
import { keepProject, keptProject, type KeptProject } from './project/kept.js';
import type { Plan, PlanRequest } from './project/plan.js';
import type { CheckedProject } from './project/recipe.js';
import { toolVersions } from './assets/tools.js';
import { stepCatalogue, steps } from './steps/index.js';
import { rmSync } from 'node:fs';
import { join } from 'node:path';

/** Where to find a project. */
export interface OpenOptions {
  /** Where to look for `anvil.yaml`, here and in the folders above; the working folder when it is left out. */
  readonly folder?: string | undefined;
  /** Another project file, relative to `folder`. */
  readonly config?: string | undefined;
}

/** What to build. */
export interface BuildOptions {
  /** `production` when it is left out. */
  readonly profile?: string | undefined;
  /** Names of pipelines; those that they wait for are built as well. All of them when it is left out. */
  readonly pipelines?: readonly string[] | undefined;
  /** Whether files at the place of an output that the tool did not write may be replaced. */
  readonly force?: boolean | undefined;
  readonly signal?: AbortSignal | undefined;
  /** Hears of everything that happens. */
  readonly listen?: ((event: BuildEvent) => void) | undefined;
}

/** What to remove. */
export interface CleanOptions {
  /** Whether outputs that somebody changed are removed as well. */
  readonly force?: boolean | undefined;
  /** Whether the store of results is emptied as well. */
  readonly store?: boolean | undefined;
}

/** What `clean` did. */
export interface CleanReport {
  readonly removed: readonly string[];
  readonly diagnostics: readonly Diagnostic[];
}

/** A project file, checked, with the folder that it describes. */
export class Project {
  private constructor(
    private readonly place: ProjectFile,
    private checked: CheckedProject | undefined,
  ) {}

  /**
   * Opens the project of a folder.
   *
   * @throws DiagnosticError with every mistake of the project file
   */
  static async open({ folder = '.', config }: OpenOptions = {}): Promise<Project> {
    const project = new Project(findProject(folder, config), undefined);
    await project.#settings();
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

  /** The names of its profiles. */
  async profiles(): Promise<readonly string[]> {
    return [...(await this.#settings()).profiles.keys()];
  }

  /**
   * Makes the plan for a profile, from the files that lie in the project now.
   *
   * @throws DiagnosticError with every unknown name, conflict and circle
   */
  async plan(profile = 'production'): Promise<Plan> {
    const tree = new FolderTree(this.root);
    return this.#makePlan(profile, {
      root: this.root,
      owned: OutputRecord.open(this.root).outputs,
      list: (glob) => listFiles(tree, glob),
    });
  }

  /**
   * Builds pipelines and publishes their outputs.
   *
   * @returns what was done; mistakes in sources are in the report, not thrown
   * @throws DiagnosticError when the project or the request is wrong, before anything is done
   */
  async build(options: BuildOptions = {}): Promise<BuildReport> {
    const engine = this.engine();
    try {
      const signal = options.signal ?? new AbortController().signal;
      const profile = options.profile ?? 'production';
      return await engine.build(this.ground(profile), {
        profile,
        pipelines: options.pipelines ?? [],
        force: options.force ?? false,
        signalOf: () => signal,
        tell: options.listen ?? (() => undefined),
      });
    } finally {
      await engine.close();
    }
  }

  /** Removes the outputs that the tool wrote; those that somebody changed since only with `force`. */
  clean({ force = false, store = false }: CleanOptions = {}): CleanReport {
    const record = OutputRecord.open(this.root);
    const place = { root: this.root, files: new FileTable(this.root), record, force };
    const { removed, diagnostics } = remove([...record.outputs.keys()], place);
    const problem = saveRecord(place);
    if (store) rmSync(storeFolder(this.root), { recursive: true, force: true });
    removeRecordFolder(this.root);
    return { removed, diagnostics: problem ? [...diagnostics, problem] : diagnostics };
  }

  /** An engine for this project. */
  engine(): Engine {
    return new Engine({
      root: this.root,
      steps,
      catalogue: stepCatalogue,
      worker: fileURLToPath(new URL('worker.js', import.meta.url)),
      storeLimit: async () => (await this.#settings()).storeLimit,
    });
  }

  /** What an engine makes the plan of. */
  ground(profile: string): PlanGround {
    return {
      file: this.file,
      hash: contentHash(this.place.text),
      makePlan: (request) => this.#makePlan(profile, request),
    };
  }

  async #makePlan(profile: string, request: Pick<PlanRequest, 'root' | 'owned' | 'list'>): Promise<Plan> {
    const [{ makePlan }, { resolveBrowsers }] = await Promise.all([
      import('./project/plan.js'),
      import('./project/browsers.js'),
    ]);
    return makePlan(await this.#settings(), {
      ...request,
      profile,
      catalogue: stepCatalogue,
      resolve: resolveBrowsers,
    });
  }

  /** The settings of the project file: those that an earlier run found right, or else checked now. */
  async #settings(): Promise<CheckedProject> {
    if (this.checked) return this.checked;
    const { root, name, text } = this.place;
    const path = join(storeFolder(root), `project-${encodeURIComponent(name)}.json`);
    const ground = contentHash(JSON.stringify([text, toolVersions()]));
    const kept = keptValue(path, 1) as { ground: string; project: KeptProject } | undefined;
    if (kept?.ground === ground) this.checked = keptProject(kept.project, name, text, stepCatalogue);
    else {
      const [{ ProjectDocument }, { checkProject }] = await Promise.all([
        import('./project/document.js'),
        import('./project/recipe.js'),
      ]);
      this.checked = checkProject(ProjectDocument.parse(name, text), stepCatalogue);
      keepValue(path, 1, { ground, project: keepProject(this.checked) });
    }
    return this.checked;
  }
}
