import { ExitCode } from '../exit-code.js';
import type { CliCommand } from './command.js';

/** `build`: runs pipelines once. */
export const buildCommand: CliCommand<{ force?: boolean; dryRun?: boolean }> = {
  name: 'build',
  description: 'build the pipelines (default profile: production)',
  setUp(command) {
    command
      .argument('[pipelines...]', 'pipelines to build, with their dependencies (default: all)')
      .option('--dry-run', 'show which jobs would run and why, without writing anything')
      .option('--force', 'replace existing files that were not written by Loyal Anvil');
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
