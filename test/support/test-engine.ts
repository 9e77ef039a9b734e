import { Engine } from '#modules/core/build/engine.js';
import type { BuildEvent, BuildReport } from '#modules/core/build/report.js';
import { resolveBrowsers } from '#modules/core/config/browsers.js';
import { ProjectDocument } from '#modules/core/config/document.js';
import { checkProject } from '#modules/core/config/project-config.js';
import type { BuildForecast } from '#modules/core/explain/forecast.js';
import { ProjectFolder } from '#modules/core/files/project-folder.js';
import { makePlan } from '#modules/core/plan/plan.js';
import { stepCatalogue, steps as ownSteps } from '#modules/core/steps/index.js';
import type { Step } from '#modules/core/steps/step.js';
import type { TestProject } from './project.js';

class NoOptions {}

/** A step for tests: passes assets on, reads nothing and depends on no setting, unless it is defined otherwise. */
export function testStep(step: Partial<Step> & Pick<Step, 'name'>): Step {
  return {
    doc: 'A step for tests.',
    version: 1,
    options: NoOptions,
    gathers: () => false,
    settings: () => [],
    toolVersions: () => [],
    runsInProcess: () => true,
    claims: (paths) => paths,
    run: (assets) => assets,
    ...step,
  };
}

/** The engine on a project whose pipelines may use steps of a test. */
export class TestEngine {
  readonly #engine: Engine;
  readonly #steps: ReadonlyMap<string, Step>;

  constructor(
    private readonly project: TestProject,
    steps: readonly Step[],
  ) {
    this.#steps = new Map([...ownSteps, ...steps.map((step) => [step.name, step] as const)]);
    this.#engine = new Engine({
      folder: new ProjectFolder(project.root),
      steps: this.#steps,
      catalogue: this.#catalogue,
      worker: 'none',
      storeLimit: () => Promise.resolve(1 << 30),
      isReadOnly: false,
      isSession: false,
    });
  }

  get #catalogue(): typeof stepCatalogue {
    return { ...stepCatalogue, steps: [...this.#steps.values()] };
  }

  async build(): Promise<BuildReport> {
    const request = { pipelines: [], force: false, isFresh: false, isInteractive: true, profile: 'production' };
    const signal = new AbortController().signal;
    const tell: (event: BuildEvent) => void = () => undefined;
    const report = await this.#engine.build(this.#source(), { ...request, signalOf: () => signal, tell });
    await this.#engine.save();
    return report;
  }

  /** Builds in an engine of its own, as the next run of the program does. */
  async buildAgain(): Promise<BuildReport> {
    const next = new TestEngine(this.project, [...this.#steps.values()]);
    try {
      return await next.build();
    } finally {
      await next.close();
    }
  }

  forecast(): Promise<BuildForecast> {
    return this.#engine.forecast(this.#source(), 'production', []);
  }

  close(): Promise<void> {
    return this.#engine.close();
  }

  #source(): Parameters<Engine['build']>[0] {
    const text = this.project.read('anvil.yaml');
    const catalogue = this.#catalogue;
    return {
      file: 'anvil.yaml',
      configHash: text,
      makePlan: (inputs) => {
        const project = checkProject(ProjectDocument.parse('anvil.yaml', text), catalogue);
        const request = { ...inputs, profile: 'production', catalogue, resolve: resolveBrowsers };
        return Promise.resolve(makePlan(project, request));
      },
    };
  }
}
