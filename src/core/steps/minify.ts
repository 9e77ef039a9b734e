import { kindOf } from '../assets/kind.js';
import { diagnostic } from '../diagnostics/index.js';
import { Field } from '../config/field.js';
import { choice, flag, names, someOf } from '../config/value-types.js';
import type { Step } from './step.js';

/** Options of `minify`; all but `ascii` are for scripts. */
export class MinifyOptions {
  @Field(flag, {
    doc: 'Whether what a script declares at its top may be renamed or go: no other script, and nothing in the page, may use it. In modules that is so anyway.',
    default: 'false',
  })
  renameGlobals?: boolean;

  @Field(names, {
    doc: 'Properties that may get other names, in all scripts alike: nothing else uses them, and no script puts their names together while it runs. New ones go to the end of the list, so that the others keep theirs.',
    default: 'none',
  })
  renameProperties?: string | string[];

  @Field(flag, { doc: 'Whether functions and classes keep their names, which programs can read.', default: 'false' })
  preserveNames?: boolean;

  @Field(someOf('console', 'debugger'), {
    doc: 'What to leave out of scripts: `console` for all calls of its methods, with what is worked out for them, `debugger` for these statements.',
    default: 'nothing',
  })
  without?: Droppable | Droppable[];

  @Field(someOf('methods'), {
    doc: 'What is so in these scripts, although the language does not say it. `methods`: functions that are written as values of properties are only called, so that they become methods; with `new`, and asked for their `prototype`, such a function fails where it did not.',
    default: 'nothing',
  })
  assume?: 'methods' | 'methods'[];

  @Field(choice('keep', 'file', 'none'), {
    doc: 'Whether comments with licences stay in the script, go into a file beside it, named like it with `.licences.txt` at the end, or go.',
    default: '`keep`',
  })
  licences?: 'keep' | 'file' | 'none';

  @Field(flag, {
    doc: 'Whether to escape all non-ASCII characters, except in comments, so that the encoding of the page does not matter.',
    default: '`true` if the file is ASCII',
  })
  ascii?: boolean;
}

type Droppable = 'console' | 'debugger';

/** Makes style sheets and scripts smaller. */
export const minify: Step<MinifyOptions> = {
  name: 'minify',
  doc: 'Makes style sheets and scripts smaller without changing what they do.',
  version: 10,
  options: MinifyOptions,
  isAggregate: false,
  toolVersions: (path) => [kindOf(path) === 'style' ? 'css-tree' : 'acorn'],
  runsInProcess: () => true,
  claims: (paths, { licences }) =>
    licences === 'file'
      ? paths.flatMap((path) => (kindOf(path) === 'script' ? [path, licencesPath(path)] : [path]))
      : paths,
  async run([asset], options, context) {
    if (kindOf(asset!.path) === 'other') {
      context.report(
        diagnostic('step-passed', { step: 'minify', kind: 'files that are neither style sheets nor scripts' }),
      );
      return [asset!];
    }
    const { minifyAsset } = await import('./work/minify.js');
    return minifyAsset(asset!, options, context, licencesPath(asset!.path));
  },
};

const licencesPath = (path: string): string => `${path}.licences.txt`;
