import { createRequire } from 'node:module';
import type * as library from 'class-transformer';

// What is required is not searched for the names that it exports, as what is imported is; and as one file it takes a
// third of the time of its modules.
const require = createRequire(import.meta.url);
require('reflect-metadata');

export const { plainToInstance } = require('class-transformer/bundles/class-transformer.umd.js') as Pick<
  typeof library,
  'plainToInstance'
>;
