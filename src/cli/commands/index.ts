import { buildCommand } from './build.js';
import { cleanCommand } from './clean.js';
import type { CliCommand } from './command.js';
import { initCommand } from './init.js';
import { listCommand } from './list.js';
import { schemaCommand } from './schema.js';
import { serveCommand } from './serve.js';
import { watchCommand } from './watch.js';
import { whyCommand } from './why.js';

/** Every command, in the order of help. */
export const commands: readonly CliCommand<never>[] = [
  initCommand,
  buildCommand,
  watchCommand,
  serveCommand,
  listCommand,
  whyCommand,
  cleanCommand,
  schemaCommand,
];
