import { isPage, kindOf } from '../languages/formats.js';
import type { WhiteSpace } from '../languages/html/minify/white-space.js';
import { diagnostic } from '../diagnostics/index.js';
import { Field } from '../config/field.js';
import { choice, flag, names, someOf } from '../config/value-types.js';
import type { Step } from './step.js';

/** Options of `minify`; all but `ascii` and `whiteSpace` are for scripts. */
export class MinifyOptions {
  @Field(flag, {
    doc: 'Whether top-level names of a script are its own: they are renamed and removed, in a function around the script, so that no other script of the page sees them or conflicts with them. Safe only if nothing else uses them. Those of modules always are.',
    default: 'false',
  })
  renameGlobals?: boolean;

  @Field(names, {
    doc: 'Properties to rename, consistently in all scripts. Safe only if nothing else uses them and no script computes their names. Append new properties to the end of the list, so that the others keep their short names.',
    default: 'none',
  })
  renameProperties?: string | string[];

  @Field(flag, {
    doc: 'Whether to preserve the names of functions and classes, which are visible at run time.',
    default: 'false',
  })
  preserveNames?: boolean;

  @Field(someOf('console', 'debugger'), {
    doc: 'What to remove from scripts: `console` for all calls of its methods with their arguments, `debugger` for these statements.',
    default: 'nothing',
  })
  without?: Droppable | Droppable[];

  @Field(someOf('methods'), {
    doc: 'Promises about your code that the minifier cannot verify. `methods`: functions that are values of properties are only called, never used with `new` or for their `prototype`, so they become methods.',
    default: 'nothing',
  })
  assume?: 'methods' | 'methods'[];

  @Field(choice('keep', 'file', 'none'), {
    doc: 'Whether to keep licence comments in the script, to move them to a separate file named after it with the extension `.licences.txt`, or to remove them.',
    default: '`keep`',
  })
  licences?: 'keep' | 'file' | 'none';

  @Field(flag, {
    doc: 'Whether to escape all non-ASCII characters, except in comments, so that the encoding of the page does not matter.',
    default: '`true` if the file is ASCII',
  })
  ascii?: boolean;

  @Field(choice('collapse', 'blocks', 'keep'), {
    doc: 'White space in pages. `collapse`: a run of it becomes one character. `blocks`: it is also removed next to elements that are blocks by default; safe unless a style sheet displays them inline. `keep`: unchanged.',
    default: '`collapse`',
  })
  whiteSpace?: WhiteSpace;
}

type Droppable = 'console' | 'debugger';

/** Makes style sheets, scripts and pages smaller. */
export const minify: Step<MinifyOptions> = {
  name: 'minify',
  doc: 'Minifies style sheets, scripts and pages without changing their behaviour.',
  version: 23,
  options: MinifyOptions,
  gathers: () => false,
  settings: (path) =>
    kindOf(path) === 'script' || isPage(path) ? ['browsers', 'constants', 'maps'] : ['browsers', 'maps'],
  toolVersions: (path) =>
    isPage(path) ? ['css-tree', 'acorn', 'parse5'] : [kindOf(path) === 'style' ? 'css-tree' : 'acorn'],
  runsInProcess: () => true,
  // Who sets the option has decided.
  assumesCollapsedSpace: ({ whiteSpace }) => whiteSpace === undefined,
  claims: (paths, { licences }) =>
    licences === 'file'
      ? paths.flatMap((path) => (kindOf(path) === 'script' ? [path, licencesPath(path)] : [path]))
      : paths,
  async run([asset], options, context) {
    if (isPage(asset!.path)) {
      const { minifyPageAsset } = await import('./work/minify-page.js');
      return [minifyPageAsset(asset!, options, context)];
    }
    if (kindOf(asset!.path) === 'other') {
      const kind = 'files that are neither style sheets nor scripts nor pages';
      context.report(diagnostic('step-passed', { step: 'minify', kind }));
      return [asset!];
    }
    const { minifyAsset } = await import('./work/minify.js');
    return minifyAsset(asset!, options, context, licencesPath(asset!.path));
  },
};

const licencesPath = (path: string): string => `${path}.licences.txt`;
