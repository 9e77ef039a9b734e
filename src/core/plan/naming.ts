import { posix } from 'node:path';
import { globTest } from '../files/globs.js';
import { hasFixedName } from '../naming/fixed-names.js';
import { manifestName } from '../naming/manifest.js';
import type { PlannedPipeline } from './pipeline.js';
import type { Plan } from './plan.js';

type PlanPart = Pick<Plan, 'pipelines' | 'profile'>;

/** Reports whether a pipeline names its outputs by their content. */
export const hasHashedNames = ({ names }: PlannedPipeline, { profile }: PlanPart): boolean =>
  (names ?? profile.names) === 'hashed';

/** Reports whether outputs of a plan are named, or their references rewritten, after all pipelines are evaluated. */
export const isNamed = (plan: PlanPart): boolean =>
  plan.profile.integrity ||
  plan.pipelines.some(
    (pipeline) =>
      hasHashedNames(pipeline, plan) || pipeline.steps.some(({ definition }) => definition.makesVariants === true),
  );

/** A test for outputs that get a hash in their names, as far as the plan tells. */
export function hashedTest(plan: PlanPart): (path: string, pipeline: PlannedPipeline) => boolean {
  const isPlain = orderedTest(plan.profile.plainNames);
  return (path, pipeline) => hasHashedNames(pipeline, plan) && !hasFixedName(path) && !isPlain(path);
}

/** A test against globs in order: `!glob` excludes matches of the preceding ones. */
function orderedTest(globs: readonly string[]): (path: string) => boolean {
  const tests = globs.map((glob) => {
    const isExcluding = glob.startsWith('!');
    return { isExcluding, test: globTest(isExcluding ? glob.slice(1) : glob) };
  });
  return (path) => tests.reduce((isMatched, { isExcluding, test }) => (test(path) ? !isExcluding : isMatched), false);
}

/** The folder of the site: that of the server, or else the one that contains all outputs. */
export const siteFolder = ({ site, pipelines }: Pick<Plan, 'site' | 'pipelines'>): string =>
  site.folder ?? commonFolder(pipelines.map(({ to }) => to));

/** The path of the manifest of published names. */
export const manifestPath = (plan: Pick<Plan, 'site' | 'pipelines'>): string =>
  posix.join(siteFolder(plan), manifestName);

/** The innermost folder that contains all of some folders. */
function commonFolder(folders: readonly string[]): string {
  const [first = [], ...others] = folders.map((folder) => folder.split('/'));
  const common = first.filter((part, at) =>
    others.every((parts) => parts.slice(0, at + 1).join('/') === first.slice(0, at + 1).join('/')),
  );
  return common.join('/') || '.';
}
