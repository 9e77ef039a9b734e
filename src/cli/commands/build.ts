import type { BuildEvent } from '../../core/build/report.js';
import { ExitCode } from '../exit-code.js';
import type { CliCommand } from './command.js';

/** `build`: runs pipelines once. */
export const buildCommand: CliCommand<{ force?: boolean; dryRun?: boolean; fix?: boolean }> = {
  name: 'build',
  takesProfiles: true,
  description: 'build the pipelines (default profile: production)',
  examples: [
    ['loyal-anvil build', 'a release of everything'],
    ['loyal-anvil build styles -p development', 'one pipeline, with source maps'],
    ['loyal-anvil build --dry-run', 'what would run, and why'],
    ['loyal-anvil build -v', 'each job with its time, each file with its size'],
  ],
  setUp(command) {
    command
      .argument('[pipelines...]', 'pipelines to build, with their dependencies (default: all)')
      .option('--dry-run', 'show which jobs would run and why, without writing anything')
      .option('--fix', 'let linters with `fix: true` change their sources first')
      .option('--force', 'replace existing files that were not written by Loyal Anvil');
  },
  async run({ args, options, reporter, signal }) {
    const { Project } = await import('../../core/open.js');
    const project = await Project.open({ config: options.config, isReadOnly: options.dryRun });
    const pipelines = args[0] as string[];
    const profiles = options.profiles.length > 0 ? options.profiles : ['production'];
    if (profiles.length > 1) await project.checkEditions(profiles);
    let code: number = ExitCode.done;
    for (const profile of profiles) {
      if (options.dryRun) {
        const forecast = await project.forecast({ profile, pipelines });
        reporter.diagnostics(forecast.diagnostics);
        await reporter.forecast(profile, forecast.pipelines);
        continue;
      }
      if (options.fix) reporter.fixed(await project.fix({ profile, pipelines }));
      const { force } = options;
      const listen = (event: BuildEvent): void => reporter.event(event);
      const report = await project.build({ profile, pipelines, force, signal, listen });
      if (!report.done) code = ExitCode.errors;
      if (signal.aborted) break;
    }
    return code;
  },
};
