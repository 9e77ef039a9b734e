import { buildCommand } from './build.js';
import { cleanCommand } from './clean.js';
import type { CliCommand } from './command.js';
import { initCommand } from './init.js';
import { listCommand } from './list.js';
import { schemaCommand } from './schema.js';

/** Every command, in the order of help. */
export const commands: readonly CliCommand<never>[] = [
  initCommand,
  buildCommand,
  listCommand,
  cleanCommand,
  schemaCommand,
];
