import type { StepCatalogue } from '../config/steps.js';

/** The access to files that making a plan needs. */
export interface PlanInputs {
  readonly root: string;
  /** Outputs of earlier builds: never sources by themselves, only as outputs that a pipeline will write again. */
  readonly owned: { has(path: string): boolean };
  /** The files that a glob matches, in order. */
  readonly list: (glob: string) => readonly string[];
  /** The folders that `list` could not read, with the reasons. */
  readonly problems: () => ReadonlyMap<string, string>;
}

/** Everything that a plan needs besides the project file. */
export interface PlanRequest extends PlanInputs {
  readonly profile: string;
  readonly catalogue: StepCatalogue;
  /** Resolves browser queries. */
  readonly resolve: (queries: readonly string[]) => readonly string[];
}
