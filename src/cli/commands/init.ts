import type { CliCommand } from './command.js';
export const initCommand: CliCommand = { name: 'init', description: 'x', setUp: () => undefined, run: () => 0 };
