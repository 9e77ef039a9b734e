import { ExitCode } from '../exit-code.js';
import type { CliCommand } from './command.js';

/** `list`: shows the plan. */
export const listCommand: CliCommand<{ browsers?: boolean }> = {
  name: 'list',
  takesProfiles: true,
  description: 'show the pipelines in order, with their sources, steps, outputs and dependencies',
  examples: [
    ['loyal-anvil list', 'all pipelines'],
    ['loyal-anvil list styles -p development', 'one pipeline with all that it depends on'],
    ['loyal-anvil list --browsers', 'what the target browsers cost'],
  ],
  setUp(command) {
    command.option('--browsers', 'show the target browsers and the prefixes that each of them needs');
    command.argument('[pipelines...]', 'pipelines to show, with their dependencies (default: all)');
  },
  async run({ args, options, reporter }) {
    const { Project } = await import('../../core/open.js');
    const project = await Project.open({ config: options.config, isReadOnly: true });
    for (const profile of options.profiles.length > 0 ? options.profiles : [undefined]) {
      const plan = await project.plan(profile);
      if (options.browsers) {
        const { browserCost } = await import('../../core/languages/css/prefix/cost.js');
        reporter.diagnostics(plan.diagnostics);
        await reporter.browsers(plan.profile.name, browserCost(plan.browsers));
        continue;
      }
      const { selectPipelines } = await import('../../core/plan/plan.js');
      const pipelines = selectPipelines(plan, args[0] as string[]);
      reporter.diagnostics(plan.diagnostics);
      await reporter.plan(plan, pipelines);
    }
    return ExitCode.done;
  },
};
