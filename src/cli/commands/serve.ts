import { InvalidArgumentError } from 'commander';
import { openInBrowser } from '../open-in-browser.js';
import type { CliCommand } from './command.js';
import { addSessionOptions, checkFormat, listenerOf, runSession, type SessionCommandOptions } from './session.js';

interface ServeCommandOptions extends SessionCommandOptions {
  readonly host?: string;
  readonly port?: number;
  readonly open?: boolean;
}

/** `serve`: watches the project, and serves the site to browsers, which are updated after each rebuild. */
export const serveCommand: CliCommand<ServeCommandOptions> = {
  name: 'serve',
  isSession: true,
  description: 'watch and serve the site, and update the browser after each rebuild',
  examples: [
    ['loyal-anvil serve --open', 'serve the site and show it in the browser'],
    ['loyal-anvil serve --host 0.0.0.0 --port 8080', 'for other devices in the network'],
  ],
  setUp(command) {
    command
      .argument('[pipelines...]', 'pipelines to watch, with their dependencies (default: all)')
      .option(
        '--host <address>',
        'listen on this address; beyond loopback, others in the network can see the site',
        hostName,
      )
      .option('--port <number>', 'listen on this port, or the next free one; 0 for any free port', portNumber)
      .option('--open', 'open the site in the browser');
    addSessionOptions(command);
  },
  async run({ args, options, ...call }) {
    checkFormat(options);
    const { SiteServer } = await import('../../server/server.js');
    const server = await SiteServer.open({
      config: options.config,
      profile: options.profiles[0],
      pipelines: args[0] as string[],
      host: options.host,
      port: options.port,
      needsGzip: options.sizes,
      listen: listenerOf(options, call.reporter),
    });
    const show = (): void => openInBrowser(server.urls[0]!);
    if (options.open) show();
    const keys = { o: { description: 'open the site in the browser', press: show } };
    return runSession({ session: server.session, run: () => server.run() }, call, keys);
  },
};

function portNumber(text: string): number {
  const port = Number(text);
  if (!/^\d{1,5}$/.test(text) || port > 65_535) throw new InvalidArgumentError('A port is a number up to 65535.');
  return port;
}

function hostName(text: string): string {
  if (!/^[\w.:-]+$/.test(text)) throw new InvalidArgumentError('An address is a host name or an IP address.');
  return text;
}
