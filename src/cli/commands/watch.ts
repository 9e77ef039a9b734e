import type { CliCommand } from './command.js';
import { addSessionOptions, checkFormat, listenerOf, runSession, type SessionCommandOptions } from './session.js';

/** `watch`: builds, and rebuilds what changes affect, until it is stopped. */
export const watchCommand: CliCommand<SessionCommandOptions> = {
  name: 'watch',
  isSession: true,
  description: 'build the pipelines and rebuild what each change affects (default profile: development)',
  examples: [
    ['loyal-anvil watch', 'rebuild what each change affects'],
    ['loyal-anvil watch --sizes --notify', 'with the sizes that change; errors on the desktop'],
  ],
  setUp(command) {
    command.argument('[pipelines...]', 'pipelines to watch, with their dependencies (default: all)');
    addSessionOptions(command);
  },
  async run({ args, options, ...call }) {
    checkFormat(options);
    const { Session } = await import('../../core/watch/session.js');
    const session = await Session.open({
      config: options.config,
      profile: options.profiles[0],
      pipelines: args[0] as string[],
      needsGzip: options.sizes,
      listen: listenerOf(options, call.reporter),
    });
    return runSession({ session, run: () => session.run() }, call);
  },
};
