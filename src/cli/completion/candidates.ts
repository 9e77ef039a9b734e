import { Command, type Option } from 'commander';
import type { CliCommand } from '../commands/command.js';
import { addSharedOptions } from '../shared-options.js';

/** A word that can stand at the cursor, and what it means. */
export interface Candidate {
  readonly value: string;
  readonly description?: string;
}

/** The names in a project that words can be. */
export interface ProjectNames {
  readonly pipelines: readonly Candidate[];
  readonly profiles: readonly Candidate[];
}

/** Words that can stand at the cursor; `files` means any file name. */
export type Candidates = readonly Candidate[] | 'files';

/**
 * Finds the words that can stand at the end of a command line.
 *
 * @param words those after the name of the program; the last one is at the cursor, and may be empty
 * @param names returns the names in the project, when they are needed
 */
export async function candidates(
  words: readonly string[],
  commands: readonly CliCommand<never>[],
  names: (config: string | undefined) => Promise<ProjectNames>,
): Promise<Candidates> {
  const [name = '', ...rest] = words;
  const all = commands.map(({ name: value, description }) => ({ value, description }));
  if (rest.length === 0) return beginning([...all, { value: 'help', description: 'print help for a command' }], name);
  if (name === 'help') return rest.length === 1 ? beginning(all, rest[0]!) : [];
  const found = commands.find((one) => one.name === name);
  if (!found) return [];
  const command = new Command(found.name);
  addSharedOptions(command);
  found.setUp(command);
  const { options } = command;
  const [current = '', before] = [rest.at(-1), rest.at(-2)];
  const taking = before === undefined ? undefined : options.find((one) => takesValue(one) && isNamed(one, before));
  if (taking) return valuesOf(taking, current, () => names(configIn(rest)));
  if (current.startsWith('-')) return beginning(options.flatMap(asCandidate), current);
  const position = rest.slice(0, -1).filter((word, at) => isArgument(word, rest[at - 1], options)).length;
  const { registeredArguments: declared } = command;
  const argument = declared[Math.min(position, declared.length - 1)];
  if (!argument || (position >= declared.length && !argument.variadic)) return [];
  if (argument.argChoices)
    return beginning(
      argument.argChoices.map((value) => ({ value })),
      current,
    );
  if (argument.name() !== 'pipelines') return 'files';
  const { pipelines } = await names(configIn(rest));
  return beginning(
    pipelines.filter(({ value }) => !rest.slice(0, -1).includes(value)),
    current,
  );
}

async function valuesOf(option: Option, current: string, names: () => Promise<ProjectNames>): Promise<Candidates> {
  if (option.argChoices)
    return beginning(
      option.argChoices.map((value) => ({ value })),
      current,
    );
  if (option.long === '--profile') return beginning((await names()).profiles, current);
  return option.long === '--config' ? 'files' : [];
}

/** Reports whether a word is no option and no value of one. */
function isArgument(word: string, before: string | undefined, options: readonly Option[]): boolean {
  if (word.startsWith('-')) return false;
  return before === undefined || !options.some((one) => takesValue(one) && isNamed(one, before));
}

/** The project file that a command line names. */
function configIn(words: readonly string[]): string | undefined {
  const at = words.findIndex((word) => word === '-c' || word === '--config');
  return at < 0 ? undefined : words[at + 1];
}

const takesValue = (option: Option): boolean => option.required || option.optional;
const isNamed = (option: Option, word: string): boolean => option.long === word || option.short === word;
const asCandidate = ({ long, description }: Option): Candidate[] => (long ? [{ value: long, description }] : []);
const beginning = (all: readonly Candidate[], start: string): readonly Candidate[] =>
  all.filter(({ value }) => value.startsWith(start));
