import { build, type BuildEvent, type BuildReport } from './engine/build.js';
import type { Diagnostic } from './diagnostics/index.js';
import { remove, saveRecord, type Place } from './files/publish.js';
import { OutputRecord } from './files/record.js';
import { findProject } from './project/find.js';
import { makePlan, selectPipelines, type Plan } from './project/plan.js';
import { checkProject, type CheckedProject } from './project/recipe.js';
import { stepCatalogue, steps } from './steps/index.js';

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

/** What `clean` did. */
export interface CleanReport {
  readonly removed: readonly string[];
  readonly diagnostics: readonly Diagnostic[];
}

/** A project file, checked, with the folder that it describes. */
export class Project {
  private constructor(
    /** The project folder, absolute. */
    readonly root: string,
    private readonly checked: CheckedProject,
  ) {}

  /**
   * Opens the project of a folder.
   *
   * @throws DiagnosticError with every mistake of the project file
   */
  static open({ folder = '.', config }: OpenOptions = {}): Project {
    const { root, document } = findProject(folder, config);
    return new Project(root, checkProject(document, stepCatalogue));
  }

  /** The name of the project file. */
  get file(): string {
    return this.checked.document.file;
  }

  /** The names of its profiles. */
  get profiles(): readonly string[] {
    return [...this.checked.profiles.keys()];
  }

  /**
   * Makes the plan for a profile, from the files that lie in the project now.
   *
   * @throws DiagnosticError with every unknown name, conflict and circle
   */
  plan(profile = 'production'): Plan {
    return this.#plan(profile, OutputRecord.open(this.root));
  }

  /**
   * Builds pipelines and publishes their outputs.
   *
   * @returns what was done; mistakes in sources are in the report, not thrown
   * @throws DiagnosticError when the project or the request is wrong, before anything is done
   */
  async build(options: BuildOptions = {}): Promise<BuildReport> {
    const record = OutputRecord.open(this.root);
    const plan = this.#plan(options.profile ?? 'production', record);
    return build(plan, {
      pipelines: selectPipelines(plan, options.pipelines ?? []),
      steps,
      place: this.#place(record, options.force),
      signal: options.signal ?? new AbortController().signal,
      tell: options.listen ?? (() => undefined),
    });
  }

  /** Removes the outputs that the tool wrote; those that somebody changed since only with `force`. */
  clean({ force }: { readonly force?: boolean | undefined } = {}): CleanReport {
    const record = OutputRecord.open(this.root);
    const place = this.#place(record, force);
    const { removed, diagnostics } = remove([...record.outputs.keys()], place);
    const problem = saveRecord(place);
    return { removed, diagnostics: problem ? [...diagnostics, problem] : diagnostics };
  }

  #plan(profile: string, record: OutputRecord): Plan {
    return makePlan(this.checked, {
      root: this.root,
      profile,
      catalogue: stepCatalogue,
      owned: new Set(record.outputs.keys()),
    });
  }

  #place(record: OutputRecord, force = false): Place {
    return { root: this.root, record, force };
  }
}
