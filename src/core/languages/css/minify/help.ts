import { styleRewrites } from './index.js';
import type { RewriteCase } from './rewrite.js';

/** The target browsers for which the cases of the rewrites are written. */
export const casesAreFor = 'chrome 125, firefox 128, safari 17.4';

/** The documentation of a rewrite: what it does, why it is safe, and examples. */
export interface StyleRewriteHelp {
  readonly name: string;
  readonly doc: string;
  readonly reference: string;
  readonly cases: readonly RewriteCase[];
}

/** Loads the documentation of all rewrites of style sheets. */
export function styleRewriteHelp(): Promise<readonly StyleRewriteHelp[]> {
  return Promise.all(
    styleRewrites.map(async ({ name, doc, reference }) => {
      const { cases } = (await import(`./${name}.cases.js`)) as { cases: readonly RewriteCase[] };
      return { name, doc, reference, cases };
    }),
  );
}
