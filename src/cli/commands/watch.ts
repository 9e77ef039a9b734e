import type { CliCommand } from './command.js';

/** `watch`: builds, and rebuilds what changes affect, until it is stopped. */
export const watchCommand: CliCommand = {
  name: 'watch',
  isSession: true,
  description: 'build the pipelines and rebuild what each change affects (default profile: development)',
  setUp(command) {
    command.argument('[pipelines...]', 'pipelines to watch, with their dependencies (default: all)');
  },
  async run({ args, options, ...call }) {
    const { checkFormat, runSession } = await import('./session.js');
    checkFormat(options);
    const { Session } = await import('../../core/watch/session.js');
    const session = await Session.open({
      config: options.config,
      profile: options.profiles[0],
      pipelines: args[0] as string[],
      listen: (event) => call.reporter.event(event),
    });
    return runSession({ session, run: () => session.run() }, call);
  },
};
