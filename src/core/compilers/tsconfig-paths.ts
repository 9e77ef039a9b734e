import { createRequire } from 'node:module';
import { posix } from 'node:path';
import type ts from 'typescript';
import type { StepContext } from '../assets/context.js';
import { Tsconfigs } from './tsconfig.js';

const require = createRequire(import.meta.url);

/** The files that import specifiers may stand for by the `paths` and `baseUrl` of tsconfig.json. */
export class TsconfigPaths {
  readonly #configs: Tsconfigs;

  constructor(context: StepContext) {
    this.#configs = new Tsconfigs(() => require('typescript') as typeof ts, context);
  }

  /**
   * The paths to look for, in order, relative to the project.
   *
   * @param from the importing file
   */
  candidates(specifier: string, from: string): string[] {
    if (/^[./#]|^[a-z][a-z0-9+.-]*:/i.test(specifier) || `/${from}`.includes('/node_modules/')) return [];
    const { mapping } = this.#configs.settingsFor(from);
    if (!mapping) return [];
    const { base, patterns } = mapping;
    const matches = patterns.flatMap(([pattern, targets]) => {
      const [head = '', tail] = pattern.split('*');
      if (tail === undefined) return pattern === specifier ? [{ length: Infinity, rest: '', targets }] : [];
      const isMatch =
        specifier.length >= head.length + tail.length && specifier.startsWith(head) && specifier.endsWith(tail);
      return isMatch
        ? [{ length: head.length, rest: specifier.slice(head.length, specifier.length - tail.length), targets }]
        : [];
    });
    // The pattern with the longest text before `*` applies.
    const [best] = matches.sort((a, b) => b.length - a.length);
    if (best) return best.targets.map((target) => posix.normalize(target.replace('*', () => best.rest)));
    return base === undefined ? [] : [posix.join(base, specifier)];
  }
}
