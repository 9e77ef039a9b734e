import { scriptPasses, scriptRewrites } from './index.js';
import type { ScriptCase } from './rewrite.js';

/** The documentation of a rewrite: what it does, why it is safe, and examples. */
export interface ScriptRewriteHelp {
  readonly name: string;
  readonly doc: string;
  readonly reference: string;
  readonly cases: readonly ScriptCase[];
}

/** Loads the documentation of all rewrites and passes of scripts. */
export function scriptRewriteHelp(): Promise<readonly ScriptRewriteHelp[]> {
  return Promise.all(
    [...scriptRewrites, ...scriptPasses].map(async ({ name, doc, reference }) => {
      const { cases } = (await import(`./${name}.cases.js`)) as { cases: readonly ScriptCase[] };
      return { name, doc, reference, cases };
    }),
  );
}
