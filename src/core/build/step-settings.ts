import type { StepEnvironment } from '../assets/context.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import type { Plan } from '../plan/plan.js';

/** The settings of a plan that the steps of a pipeline can depend on. */
export const stepSettings = (
  { browsers, profile, profiles }: Pick<Plan, 'browsers' | 'profile' | 'profiles'>,
  { steps }: Pick<PlannedPipeline, 'steps'>,
): StepEnvironment => ({
  browsers,
  isLinked: steps.some(({ definition }) => definition.loads === true),
  constants: profile.constants,
  environment: profile.constants['process.env.NODE_ENV'] === 'development' ? 'development' : 'production',
  maps: profile.maps !== 'none',
  profile: profile.name,
  profiles: { lineage: profile.lineage, all: profiles },
  secrets: Object.entries(profile.variables).flatMap(([name, { env, secret }]) =>
    secret === true ? [{ name, variable: env }] : [],
  ),
});
