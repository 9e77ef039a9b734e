import { Field } from '../config/field.js';
import { commandLine, extension, flag, names, seconds, textList } from '../config/value-types.js';
import { withExtension } from '../languages/formats.js';
import type { Step } from './step.js';

/** Options of `run`. */
export class RunOptions {
  @Field(commandLine, {
    doc: 'The command: a text that is split into words as a POSIX shell does, or a list of words. Programs of installed packages are found by their names. It reads the asset from standard input, or from the file `{in}`, and writes the result to standard output, or to the file `{out}`.',
    required: true,
  })
  command!: string | readonly string[];

  @Field(flag, {
    doc: 'Whether the command runs once for all assets. `{in}` is then the folder that they are in, and the files in the folder `{out}` are the result; without `{out}`, the assets pass unchanged.',
    default: '`false`',
  })
  gather?: boolean;

  @Field(extension, { doc: 'The extension of the result, such as `css`.', default: 'that of the asset' })
  extension?: string;

  @Field(textList('globs', 'a glob or a list of globs'), {
    doc: 'Globs of further files that the command reads, relative to the project: it runs again when one of them changes. Files named in the command itself are always tracked. In a pipeline without sources, a command without `reads` runs in every build.',
    default: 'none',
  })
  reads?: string | readonly string[];

  @Field(textList('globs', 'a glob or a list of globs'), {
    doc: 'Globs of files of the project that the command writes by itself, such as sources that it generates: it runs again when one of them is missing or changed.',
    default: 'none',
  })
  writes?: string | readonly string[];

  @Field(names, {
    doc: 'Names of environment variables that the result depends on. The command always sees all variables, and `ANVIL_PROFILE`, the name of the profile.',
    default: 'none',
  })
  environment?: string | readonly string[];

  @Field(seconds, { doc: 'The time after which the command is ended, in seconds.', default: '`300`' })
  timeLimit?: number;

  @Field(flag, {
    doc: 'Whether what the command writes to standard error, and to standard output if that is no result, is also kept in `.anvil-cache/logs/PIPELINE.PROFILE.log`, until the command runs again.',
    default: '`false`',
  })
  log?: boolean;
}

/** Sends each asset, or all of them together, through a command; without sources, it only runs the command. */
export const run: Step<RunOptions> = {
  name: 'run',
  doc: 'Runs a command for each asset, for all of them, or without any, and without a shell.',
  version: 2,
  options: RunOptions,
  mainOption: 'command',
  gathers: ({ gather }) => gather === true,
  passesOn: ({ command, gather }) => gather === true && !hasOutput(command),
  isTask: true,
  resizes: true,
  runsAlways: ({ reads }) => reads === undefined,
  writesSources: ({ writes }) => [writes ?? []].flat(),
  settings: () => ['profile'],
  toolVersions: () => [],
  runsInProcess: () => false,
  claims(paths, { command, gather, extension: other }) {
    if (gather === true) return hasOutput(command) ? [{ within: '.', pattern: '**/*' }] : paths;
    return other === undefined ? paths : paths.map((path) => withExtension(path, other));
  },
  async run(assets, options, context) {
    const { runCommandOn } = await import('./work/run.js');
    return runCommandOn(assets, options, context);
  },
};

/** Reports whether a command names the place of its result. */
const hasOutput = (command: RunOptions['command']): boolean => [command].flat().some((word) => word.includes('{out}'));
