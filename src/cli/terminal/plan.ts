import type { Plan } from '../../core/plan/plan.js';
import { hashedTest } from '../../core/plan/naming.js';
import { encodingsFor, type PlannedPipeline } from '../../core/plan/pipeline.js';
import { describeClaim, exactPaths } from '../../core/plan/claims.js';
import { count } from './figures.js';
import type { Palette } from './palette.js';

/** A pipeline of the plan as JSON data. */
export function describePlan({
  name,
  description,
  sources,
  steps,
  to,
  isPublished,
  claims,
  dependsOn,
}: PlannedPipeline): object {
  return {
    name,
    ...(description !== undefined && { description }),
    sources: sources.map((source) => source.path),
    steps: steps.map((step) => ({
      name: step.definition.name,
      options: step.options,
      ...(step.match !== undefined && { match: step.match }),
    })),
    ...(isPublished && { to }),
    outputs: claims.map(describeClaim),
    dependsOn,
  };
}

const shownFiles = 6;

/** The plan as text: each pipeline with its sources, steps, outputs and dependencies. */
export function drawPlan(
  plan: Plan,
  pipelines: readonly PlannedPipeline[],
  verbose: boolean,
  palette: Palette,
): string {
  const isHashed = hashedTest(plan);
  const head = `${count(pipelines.length, 'pipeline')} for ${palette.strong(plan.profile.name)}, in this order:\n`;
  return `${head}\n${pipelines.map((pipeline) => drawPipeline(pipeline, releaseRows(pipeline, plan, isHashed), verbose, palette)).join('\n')}`;
}

type PlanRow = readonly [label: string, values: readonly string[]];

/** The rows that tell how outputs are published, where that is not under their own paths alone. */
function releaseRows(pipeline: PlannedPipeline, { profile }: Plan, isHashed: ReturnType<typeof hashedTest>): PlanRow[] {
  if (!pipeline.isPublished) return [];
  // Patterns stand for files of any name.
  const paths = exactPaths(pipeline.claims);
  const hashed = paths.filter((path) => isHashed(path, pipeline)).length;
  const encodings = encodingsFor(pipeline, profile);
  return [
    ['names', hashed === 0 ? [] : [hashed === paths.length ? 'with a hash' : 'some with a hash']],
    ['compress', encodings.length === 0 ? [] : [encodings.join(', ')]],
  ];
}

function drawPipeline(
  pipeline: PlannedPipeline,
  release: readonly PlanRow[],
  verbose: boolean,
  palette: Palette,
): string {
  const steps = pipeline.steps.map(({ definition, options, match, isAlways }) => {
    const main =
      definition.mainOption === undefined ? undefined : (options as Record<string, unknown>)[definition.mainOption];
    const more = [...(match === undefined ? [] : [match]), ...(isAlways ? ['in every build'] : [])];
    return (
      definition.name +
      (main === undefined ? '' : ` ${[main].flat().join(' ')}`) +
      (more.length === 0 ? '' : ` (${more.join(', ')})`)
    );
  });
  const rows: readonly PlanRow[] = [
    [
      'from',
      pipeline.from.length === 0
        ? ['nothing: it runs commands']
        : files(
            pipeline.sources.map((source) => source.path),
            verbose,
          ),
    ],
    ['steps', [steps.length === 0 ? 'none (copied)' : steps.join(' → ')]],
    ['external', pipeline.steps.flatMap(({ definition, options }) => definition.externals?.(options) ?? [])],
    ['to', pipeline.isPublished ? files(pipeline.claims.map(describeClaim), verbose) : ['nothing is published']],
    ...release,
    [
      'depends on',
      pipeline.dependsOn.map(
        (wait) => `${wait.on}${wait.reads === undefined ? ' (by `after`)' : `, which writes ${wait.reads}`}`,
      ),
    ],
  ];
  const lines = rows.flatMap(([label, values]) =>
    values.map((value, index) => `  ${palette.faint((index === 0 ? label : '').padEnd(10))}  ${value}\n`),
  );
  const { name, description } = pipeline;
  return `${palette.strong(name)}${description === undefined ? '' : `: ${description}`}\n${lines.join('')}`;
}

function files(paths: readonly string[], verbose: boolean): string[] {
  if (paths.length === 0) return ['no files'];
  if (verbose || paths.length <= shownFiles) return [...paths];
  return [
    ...paths.slice(0, shownFiles - 1),
    `and ${String(paths.length - shownFiles + 1)} more (--verbose lists them)`,
  ];
}
