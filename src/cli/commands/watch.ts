import { ExitCode } from '../exit-code.js';
import { listenForKeys } from '../terminal/keys.js';
import type { CliCommand } from './command.js';

/** `watch`: builds, and builds again what changes reach, until it is ended. */
export const watchCommand: CliCommand = {
  name: 'watch',
  description: 'build the pipelines, for development unless told otherwise, and build again whatever a change reaches',
  setUp(command) {
    command.argument('[pipelines...]', 'pipelines to watch, with those they wait for; all of them when none is named');
  },
  async run({ args, options, reporter, signal }) {
    const { Session } = await import('../../core/session.js');
    const session = await Session.open({
      config: options.config,
      profile: options.profile,
      pipelines: args[0] as string[],
      listen: (event) => reporter.event(event),
    });
    const end = (): void => session.close();
    signal.addEventListener('abort', end, { once: true });
    if (signal.aborted) end();
    const keys = reporter.hasKeys
      ? listenForKeys(
          {
            r: { does: 'build everything again', press: () => session.rebuildAll() },
            d: { does: 'show what was wrong in the last round', press: () => reporter.again(session.diagnostics) },
            q: { does: 'quit', press: end },
          },
          (text) => reporter.text(text),
        )
      : undefined;
    try {
      await session.run();
    } finally {
      keys?.close();
    }
    return ExitCode.done;
  },
};
