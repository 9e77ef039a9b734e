import type { StepEnvironment } from '../assets/context.js';
import type { Plan } from '../plan/plan.js';

/** The settings of a plan that steps can depend on. */
export const stepSettings = ({ browsers, profile }: Pick<Plan, 'browsers' | 'profile'>): StepEnvironment => ({
  browsers,
  constants: profile.constants,
  maps: profile.maps !== 'none',
  profile: profile.name,
});
