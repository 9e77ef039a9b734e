import { InvalidArgumentError, Option, type Command } from 'commander';

/** Adds the options of all commands. */
export function addSharedOptions(command: Command): void {
  command
    .addOption(new Option('-c, --config <file>', 'use this project file').argParser(fileName))
    .addOption(
      new Option('-p, --profile <name>', 'use this profile; build and list take several')
        .argParser((name: string, others: string[] = []) => [...others, name])
        .env('ANVIL_PROFILE'),
    )
    .addOption(
      new Option('-f, --format <format>', 'output format')
        .choices(['pretty', 'lines', 'json', 'sarif'])
        .default('pretty'),
    )
    .addOption(new Option('-q, --quiet', 'print diagnostics only').conflicts('verbose'))
    .addOption(new Option('-v, --verbose', 'list every file and job; show details of internal errors'))
    .addOption(new Option('--no-color', 'disable colours'));
}

function fileName(text: string): string {
  if (text === '') throw new InvalidArgumentError('Expected a file name.');
  return text;
}
