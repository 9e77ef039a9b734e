import { error, warning } from './entry.js';

/** Diagnostics of the plan. */
export const plan = {
  'glob-empty': warning<{ glob: string; pipeline: string; found: string; suggestion: string }>(
    (p) => `\`${p.glob}\` in the pipeline \`${p.pipeline}\` matches ${p.found}.`,
    (p) => p.suggestion,
  ),
  'constant-variable': warning<{ name: string; value: string }>(
    (p) => `The constant \`${p.name}\` is the literal text \`${p.value}\`; environment variables are not expanded.`,
    () => 'Write the value itself.',
  ),
  'constant-unset': error<{ name: string; variable: string }>(
    (p) => `The constant \`${p.name}\` has no value: the environment variable \`${p.variable}\` is not set.`,
    (p) => `Set it, or add a \`default\`: \`{ env: ${p.variable}, default: … }\`.`,
  ),
  'constant-type': error<{ name: string; variable: string; type: string }>(
    (p) => `The value of the environment variable \`${p.variable}\`, for the constant \`${p.name}\`, is no ${p.type}.`,
    (p) => (p.type === 'boolean' ? 'Set it to `true` or `false`.' : 'Set it to a number such as `4600`.'),
  ),
  'constant-secret': error<{ name: string }>(
    (p) => `The secret constant \`${p.name}\` is used in a script, which everyone can read.`,
    () => 'Use a server of your own instead, or remove `secret` if everyone may know the value.',
  ),
  'secret-written': error<{ name: string; path: string }>(
    (p) => `${p.path} contains the value of the secret constant \`${p.name}\`.`,
    () => 'Remove it from the source, or from what the command or function writes.',
  ),
  'profile-conflict': error<{ pipeline: string; path: string; profiles: string }>(
    (p) => `\`${p.pipeline}\` writes ${p.path} in several of the profiles to build: ${p.profiles}.`,
    () => 'Add `{profile}` to its `to`, as in `to: site/{profile}`, or build one profile at a time.',
  ),
  'match-empty': warning<{ glob: string; step: string; assets: string }>(
    (p) => `\`${p.glob}\` matches none of the assets of \`${p.step}\`, so the step does nothing.`,
    (p) => `Its assets: ${p.assets}. A \`match\` without \`/\` applies to file names.`,
  ),
  'names-empty': warning<{ glob: string }>(
    (p) => `\`${p.glob}\` of \`plainNames\` matches no output.`,
    () => 'Globs are relative to the project, such as `site/downloads/**`.',
  ),
  'limit-empty': warning<{ of: string }>(
    (p) => `\`${p.of}\` of \`limits\` stands for no output.`,
    () => 'Write an extension without a dot, such as `js`, or a glob relative to the project, such as `site/js/**`.',
  ),
  'limit-exceeded': error<{ of: string; size: string; limit: string; more: string; largest: string }>(
    (p) => `The outputs of \`${p.of}\` take ${p.size} with gzip, ${p.more} over their limit of ${p.limit}.`,
    (p) => `The largest are ${p.largest}. \`loyal-anvil report\` shows what they are made of.`,
  ),
  'output-conflict': error<{ output: string; by: string }>(
    (p) => `${p.output} would be written twice: ${p.by}.`,
    () => 'Change `to`, `base` or the name of one of them.',
  ),
  'name-unknown': error<{ target: string; reader: string; writer: string }>(
    (p) => `The name of ${p.target} is not known, because the pipeline \`${p.writer}\` was not built.`,
    (p) => `Build both: \`loyal-anvil build ${p.reader} ${p.writer}\`.`,
  ),
  'output-over-source': error<{ output: string; pipeline: string }>(
    (p) => `The pipeline \`${p.pipeline}\` would overwrite the source ${p.output}.`,
    () => 'Change `to` of the pipeline.',
  ),
  'pipeline-cycle': error<{ names: readonly string[]; reasons: readonly string[] }>(
    (p) => `Circular pipelines: ${p.names.join(' → ')}.`,
    (p) => `${p.reasons.join('; ')}. Remove one of these dependencies.`,
  ),
  'base-outside': error<{ source: string; base: string; pipeline: string }>(
    (p) => `${p.source} is not in the base folder ${p.base} of the pipeline \`${p.pipeline}\`.`,
    () => 'Use a folder that contains all sources, or remove `base`.',
  ),
};
