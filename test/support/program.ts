import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';

const root = dirname(createRequire(import.meta.url).resolve('loyal-anvil/package.json'));

/** The built program, wherever the importing module was built to. */
export const program = join(root, 'dist/cli/bin.js');
