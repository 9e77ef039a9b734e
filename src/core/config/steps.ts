import type { SettingsClass } from './field.js';

/** What the project file needs to know of a step: the face of `core/steps/step.ts` fits it. */
export interface StepDefinition {
  /** As written in the project file. */
  readonly name: string;
  /** One sentence for users. */
  readonly doc: string;
  /** Whether all assets of the pipeline go through it together. */
  readonly isAggregate: boolean;
  /** Its options, without those that every step takes. */
  readonly options: SettingsClass;
  /** The option that `name: value` sets, where the step has such a short form. */
  readonly mainOption?: string;
  /** The paths that come out when these go in, in order; known before anything runs. */
  outputs(paths: readonly string[], options: object): readonly string[];
}

/** The steps there are, and which files are never sources of their own. */
export interface StepCatalogue {
  readonly steps: readonly StepDefinition[];
  /** Whether a file is a partial of a language that has them. */
  isPartial(path: string): boolean;
}
