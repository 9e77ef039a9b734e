import type { Profile } from '../config/profile.js';
import type { Encoding, Names, OutputForm } from '../config/settings.js';
import type { ConfiguredStep } from '../config/project-config.js';
import type { Claim } from '../config/steps.js';
import type { PipelineDependency } from './order.js';

/** A file that a pipeline's `from` matches. */
export interface PlannedSource {
  /** Relative to the project. */
  readonly path: string;
  /** The path after the base, which becomes the path under `to`. */
  readonly target: string;
}

/** A pipeline with all defaults and everything that is known before it runs. */
export interface PlannedPipeline {
  readonly name: string;
  /** What it is for, in one line. */
  readonly description?: string;
  readonly from: readonly string[];
  /** The folder of its outputs; `.` if it publishes nothing. */
  readonly to: string;
  /** False if what its steps make is not published. */
  readonly isPublished: boolean;
  readonly steps: readonly ConfiguredStep[];
  /** The folder that output paths are relative to, if the project file sets it. */
  readonly base?: string;
  readonly sources: readonly PlannedSource[];
  /** The files that it will write, without source maps, relative to the project. */
  readonly claims: readonly Claim[];
  /** The encodings in which outputs are also written; undefined for those of the profile. */
  readonly encodings?: readonly Encoding[];
  /** The names of outputs; undefined for those of the profile. */
  readonly names?: Names;
  /** The pipelines that it waits for, and why. */
  readonly dependsOn: readonly PipelineDependency[];
}

/** Reports whether a pipeline has to run in every build. */
export const runsAlways = ({ steps }: Pick<PlannedPipeline, 'steps'>): boolean => steps.some((step) => step.isAlways);

/** Reports whether a pipeline only reports what it finds, so that nothing has to wait for it. */
export const isAdvisory = ({ isPublished, steps }: PlannedPipeline, profile: Profile): boolean =>
  !isPublished &&
  steps.length > 0 &&
  steps.every((step) => step.definition.holds?.(step.options, profile.name) === false);

/** The number of jobs of a pipeline as far as it is known beforehand: steps may drop and add assets. */
export function expectedJobs({ sources, steps, claims }: PlannedPipeline): number {
  let [assets, jobs] = [sources.length, 0];
  for (const { isAggregate } of steps) {
    jobs += isAggregate ? 1 : assets;
    if (isAggregate) assets = Math.min(assets, claims.length);
  }
  return jobs;
}

/** The form in which a pipeline's assets become outputs in a profile. */
export const outputForm = (
  pipeline: PlannedPipeline,
  profile: Profile,
  browsers: readonly string[],
  isFinal: boolean,
): OutputForm => ({
  maps: profile.maps,
  encodings: isFinal ? encodingsFor(pipeline, profile) : [],
  isFinal,
  checkedFor: isForTargets(pipeline) || isDevelopment(profile) ? [] : browsers,
  trustsSteps: isDevelopment(profile),
});

const isDevelopment = ({ constants }: Profile): boolean => constants['process.env.NODE_ENV'] === 'development';

/** Reports whether a step has compiled scripts for the target browsers. */
const isForTargets = ({ steps }: PlannedPipeline): boolean =>
  steps.some(({ definition }) => definition.checksSyntax === true);

/** The encodings in which the outputs of a pipeline are also written. */
export const encodingsFor = ({ encodings }: PlannedPipeline, profile: Profile): readonly Encoding[] =>
  encodings ?? profile.encodings;
