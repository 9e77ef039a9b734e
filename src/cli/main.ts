import { Command, CommanderError } from 'commander';
import { ownManifest } from '../core/assets/own-manifest.js';
import { diagnostic, DiagnosticError, nearestWord } from '../core/diagnostics/index.js';
import { internal } from '../core/execute/run-step.js';
import type { Call, CliCommand, SharedOptions } from './commands/command.js';
import { loadCommands } from './commands/index.js';
import { ExitCode } from './exit-code.js';
import type { Reporter } from './reporter.js';
import { createReporter } from './reporters/index.js';
import { safeToPrint } from './safe-text.js';
import { addSharedOptions } from './shared-options.js';
import { Terminal } from './terminal/terminal.js';

const manifest = ownManifest();

/**
 * Runs the program.
 *
 * @param args the arguments after the program's name
 * @returns its exit code
 */
export async function main(args: readonly string[]): Promise<number> {
  // Target queries are resolved by the data that the package came with; that there is newer data is no news for a build.
  process.env['BROWSERSLIST_IGNORE_OLD_DATA'] ??= '1';
  // Shells set variables to nothing rather than removing them.
  if (process.env['ANVIL_PROFILE'] === '') delete process.env['ANVIL_PROFILE'];
  const stop = new AbortController();
  const interrupt = (): void => stop.abort();
  // SIGHUP: the terminal was closed.
  const signalNames = ['SIGINT', 'SIGTERM', 'SIGHUP', 'SIGQUIT'] as const;
  for (const name of signalNames) process.once(name, interrupt);
  let code: number = ExitCode.done;
  const unread = new AbortController();
  // A reader that closes the pipe early, such as `head`, affects neither the work nor the exit code.
  for (const stream of [process.stdout, process.stderr])
    stream.on('error', (error: NodeJS.ErrnoException) => {
      if (error.code !== 'EPIPE') code ||= ExitCode.errors;
      else if (stream === process.stdout) unread.abort();
    });
  const signals = { signal: stop.signal, unread: unread.signal };
  const program = createProgram(await loadCommands(args[0]), (outcome) => (code ||= outcome), signals);
  try {
    if (args.length === 0) program.outputHelp();
    else await program.parseAsync([...args], { from: 'user' });
  } catch (error) {
    if (!(error instanceof CommanderError)) throw error;
    return error.exitCode === 0 ? ExitCode.done : ExitCode.usage;
  } finally {
    for (const name of signalNames) process.off(name, interrupt);
  }
  return stop.signal.aborted ? ExitCode.interrupted : code;
}

/** Builds the commander program: the shared options, and these commands. */
function createProgram(
  commands: readonly CliCommand<never>[],
  finish: (code: number) => void,
  signals: Pick<Call, 'signal' | 'unread'>,
): Command {
  const program = new Command('loyal-anvil')
    .description(manifest.description)
    .version(manifest.version, '-V, --version', 'print the version')
    .helpOption('-h, --help', 'print help for a command')
    .helpCommand(false)
    .showSuggestionAfterError()
    .exitOverride()
    .configureHelp({ sortSubcommands: false })
    .configureOutput({ outputError: (text, write) => write(usageText(text)) });
  for (const command of commands) {
    const own = program.command(command.name).description(command.description).exitOverride();
    addSharedOptions(own);
    command.setUp(own);
    own.addHelpText('after', `\n${drawExamples(command.examples)}`);
    own.action(async () => {
      const { profile: profiles = [], ...rest } = own.opts<Omit<SharedOptions, 'profiles'> & { profile?: string[] }>();
      const options: SharedOptions = { ...rest, profiles: [...new Set(profiles)] };
      if (options.profiles.length > 1 && command.takesProfiles !== true)
        own.error(`error: option '-p, --profile <name>' can only be given once for '${command.name}'`);
      const terminal = new Terminal(process.stdout, process.stderr, options);
      const reporter = await createReporter(options, terminal, manifest.version, command.isSession ?? false);
      finish(
        await guarded(reporter, () =>
          command.run({
            args: own.processedArgs as unknown[],
            options: options as never,
            reporter,
            loadCommands: () => loadCommands(undefined),
            ...signals,
          }),
        ),
      );
    });
  }
  addHelp(program);
  return program;
}

function drawExamples(examples: CliCommand['examples']): string {
  const width = Math.max(...examples.map(([line]) => line.length));
  const rows = examples.map(([line, meaning]) => `  ${line.padEnd(width)}  ${meaning}\n`);
  return `Examples:\n${rows.join('')}`.trimEnd();
}

/** `help`: unlike commander's own, it reports unknown commands. */
function addHelp(program: Command): void {
  program
    .command('help')
    .description('print help for a command')
    .argument('[command]')
    .action((name?: string) => {
      const command = name === undefined ? program : program.commands.find((one) => one.name() === name);
      if (command) return command.outputHelp();
      const near = nearestWord(
        name!,
        program.commands.map((one) => one.name()),
      );
      return program.error(`error: unknown command '${name!}'${near === undefined ? '' : `\n(Did you mean ${near}?)`}`);
    });
}

/** Runs a command; errors become diagnostics. */
async function guarded(reporter: Reporter, run: () => Promise<number> | number): Promise<number> {
  let code: number = ExitCode.errors;
  try {
    code = await run();
  } catch (error) {
    if (error instanceof DiagnosticError) code = ExitCode.usage;
    reporter.diagnostics(error instanceof DiagnosticError ? error.diagnostics : [internal(error)]);
  }
  reporter.end(code);
  return code;
}

/** A usage error as a diagnostic; commander's second line is its suggestion. */
function usageText(text: string): string {
  const [first = '', ...rest] = text.trim().split('\n');
  const message = first.replace(/^error: /, '').replace(/^./, (letter) => letter.toUpperCase());
  const help = rest.join(' ').replace(/^\((.*)\)$/, '$1') || 'Run `loyal-anvil help` for a list of commands.';
  const terminal = new Terminal(process.stdout, process.stderr, { color: !process.argv.includes('--no-color') });
  const one = diagnostic('usage', { message: message.endsWith('.') ? message : `${message}.`, help });
  return terminal.draw([safeToPrint(one)]);
}
