import type { CliCommand } from './command.js';

/** Every command by its name, in the order of help; loaded when it is needed, since each module takes time to load. */
const commands: Readonly<Record<string, () => Promise<CliCommand<never>>>> = {
  init: async () => (await import('./init.js')).initCommand,
  build: async () => (await import('./build.js')).buildCommand,
  watch: async () => (await import('./watch.js')).watchCommand,
  serve: async () => (await import('./serve.js')).serveCommand,
  list: async () => (await import('./list.js')).listCommand,
  why: async () => (await import('./why.js')).whyCommand,
  report: async () => (await import('./report.js')).reportCommand,
  clean: async () => (await import('./clean.js')).cleanCommand,
  schema: async () => (await import('./schema.js')).schemaCommand,
  completion: async () => (await import('./completion.js')).completionCommand,
};

/** Loads the command that the first argument names, or all commands if it names none. */
export async function loadCommands(name: string | undefined): Promise<readonly CliCommand<never>[]> {
  const load = name !== undefined && Object.hasOwn(commands, name) ? commands[name] : undefined;
  return load ? [await load()] : Promise.all(Object.values(commands).map((one) => one()));
}
