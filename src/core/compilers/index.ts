import type { Compiler } from './compiler.js';
import { sass } from './sass.js';
import { typescript } from './typescript.js';

/** Every compiler; the first that takes an extension is asked. */
export const compilers: readonly Compiler[] = [sass, typescript];
