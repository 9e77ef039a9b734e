import { Argument, Option } from 'commander';
import { diagnostic, DiagnosticError } from '../../core/diagnostics/index.js';
import type { Candidate, Candidates, ProjectNames } from '../completion/candidates.js';
import { completionScripts, shells } from '../completion/scripts.js';
import { ExitCode } from '../exit-code.js';
import { safeToPrint } from '../safe-text.js';
import type { CliCommand } from './command.js';

/** `completion`: prints a script with which a shell completes commands, options, pipelines and profiles. */
export const completionCommand: CliCommand<{ for?: boolean }> = {
  name: 'completion',
  description: 'print a script that completes commands, options, pipelines and profiles in a shell',
  examples: [
    ['loyal-anvil completion bash >> ~/.bashrc', 'in bash'],
    ['loyal-anvil completion zsh > ~/.zsh/_loyal-anvil', 'in zsh, with ~/.zsh in $fpath'],
    ['loyal-anvil completion fish > ~/.config/fish/completions/loyal-anvil.fish', 'in fish'],
  ],
  setUp(command) {
    // What the scripts themselves call is not shown.
    command
      .usage('[options] [shell]')
      .configureHelp({ visibleArguments: (one) => one.registeredArguments.filter(({ variadic }) => !variadic) })
      .addArgument(shellArgument())
      .argument('[words...]', 'the words of a command line, up to the cursor')
      .addOption(new Option('--for', 'print what can stand at the end of a command line').hideHelp());
  },
  async run({ args, options, reporter, loadCommands }) {
    const [name, more] = args as [string | undefined, string[]];
    if (options.for) {
      const { candidates } = await import('../completion/candidates.js');
      reporter.text(asLines(await candidates([name ?? '', ...more], await loadCommands(), namesIn)));
      return ExitCode.done;
    }
    const shell = shells.find((one) => one === name);
    if (!shell || more.length > 0) {
      const message =
        name === undefined
          ? 'Missing the name of a shell.'
          : `There is no script for \`${[name, ...more].join(' ')}\`.`;
      const help = `Name one shell: ${shells.map((one) => `\`${one}\``).join(', ')}.`;
      throw new DiagnosticError(diagnostic('usage', { message, help }));
    }
    reporter.text(completionScripts[shell]);
    return ExitCode.done;
  },
};

/** The name of a shell: offered, but checked later, since other words can stand there. */
function shellArgument(): Argument {
  const argument = new Argument('[shell]', 'the shell');
  argument.argChoices = [...shells];
  return argument;
}

/** Words one a line. */
const asLines = (found: Candidates): string => (found === 'files' ? ':files\n' : found.map(asLine).join(''));

const asLine = ({ value, description }: Candidate): string =>
  `${safeToPrint(value)}${description === undefined ? '' : `\t${safeToPrint(description)}`}\n`;

/** The names in a project; none if its file cannot be used, because completion cannot show messages. */
async function namesIn(config: string | undefined): Promise<ProjectNames> {
  const { Project } = await import('../../core/open.js');
  try {
    const project = await Project.open({ config, isReadOnly: true });
    const pipelines = await project.pipelines();
    const profiles = (await project.profiles()).map((value) => ({ value }));
    return {
      pipelines: pipelines.map(({ name, description }) => ({
        value: name,
        ...(description !== undefined && { description }),
      })),
      profiles,
    };
  } catch (error) {
    if (error instanceof DiagnosticError) return { pipelines: [], profiles: [] };
    throw error;
  }
}
