import { ExitCode } from '../exit-code.js';
import type { CliCommand } from './command.js';

/** `build`: runs pipelines once. */
export const buildCommand: CliCommand<{ force?: boolean; dryRun?: boolean }> = {
  name: 'build',
  description: 'build the pipelines, for production unless told otherwise',
  setUp(command) {
    command
      .argument('[pipelines...]', 'pipelines to build, with those they wait for; all of them when none is named')
      .option('--dry-run', 'only show what would run, and why; nothing is written')
      .option('--force', 'replace files at the place of an output that were not written by Loyal Anvil');
  },
  async run({ args, options, reporter, signal }) {
    const { Project } = await import('../../core/open.js');
    const project = await Project.open({ config: options.config, isReadOnly: options.dryRun });
    if (options.dryRun) {
      const { profile = 'production' } = options;
      const { pipelines, diagnostics } = await project.forecast({ profile, pipelines: args[0] as string[] });
      reporter.diagnostics(diagnostics);
      await reporter.forecast(profile, pipelines);
      return ExitCode.done;
    }
    const report = await project.build({
      profile: options.profile,
      pipelines: args[0] as string[],
      force: options.force,
      signal,
      listen: (event) => reporter.event(event),
    });
    return report.done ? ExitCode.done : ExitCode.errors;
  },
};
