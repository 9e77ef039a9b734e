import type { StepCatalogue } from '../config/steps.js';

/** What of the disk a plan is made of. */
export interface PlanInputs {
  readonly root: string;
  /** Outputs of earlier builds: never sources by themselves, only as what a pipeline will write again. */
  readonly owned: { has(path: string): boolean };
  /** The files that a glob matches, in order. */
  readonly list: (glob: string) => readonly string[];
  /** The folders that `list` could not read, with the reasons. */
  readonly problems: () => ReadonlyMap<string, string>;
}

/** What making a plan needs beside the checked project file. */
export interface PlanRequest extends PlanInputs {
  readonly profile: string;
  readonly catalogue: StepCatalogue;
  /** Resolves browser queries. */
  readonly resolve: (queries: readonly string[]) => readonly string[];
}
