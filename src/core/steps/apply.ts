import { Field } from '../config/field.js';
import { extension, filePath, flag, mapOf, seconds, textList } from '../config/value-types.js';
import { withExtension } from '../languages/formats.js';
import type { Step } from './step.js';

/** Options of `apply`. */
export class ApplyOptions {
  @Field(filePath, {
    doc: 'An ES module, relative to the project. Its default export is called with each asset and a context, and returns the new text, bytes, an object with `text` or `bytes`, `path` and `map`, a list of such objects, `null` to drop the asset, or nothing to keep it.',
    required: true,
  })
  module!: string;

  @Field(mapOf('options', 'a map'), {
    doc: 'Options for the function, in `context.options`. If the module exports a JSON Schema as `schema`, they are checked with it.',
    default: 'none',
  })
  options?: Readonly<Record<string, unknown>>;

  @Field(flag, { doc: 'Whether the function is called once, with a list of all assets.', default: '`false`' })
  gather?: boolean;

  @Field(extension, { doc: 'The extension of results, such as `css`.', default: 'that of the asset' })
  extension?: string;

  @Field(textList('globs', 'a glob or a list of globs'), {
    doc: 'Globs of the files that the function adds or gives other paths, relative to `to`.',
    default: 'none',
  })
  writes?: string | readonly string[];

  @Field(seconds, {
    doc: 'The time after which a promise that the function has returned is given up, in seconds.',
    default: '`300`',
  })
  timeLimit?: number;

  @Field(flag, {
    doc: 'Whether the result only depends on the arguments of the function and on what it reads through its context. Such functions run in worker threads, several at a time.',
    default: '`false`',
  })
  pure?: boolean;
}

/** Calls a function of the project with assets. */
export const apply: Step<ApplyOptions> = {
  name: 'apply',
  doc: 'Calls a function of a module of the project with each asset, with all of them, or without any.',
  version: 1,
  options: ApplyOptions,
  mainOption: 'module',
  gathers: ({ gather }) => gather === true,
  isTask: true,
  resizes: true,
  tracksConstants: true,
  settings: () => ['browsers', 'constants', 'maps', 'profile'],
  toolVersions: () => [],
  // Others may share state between calls, so that all of them are on the main thread.
  runsInProcess: (_, { pure }) => pure === true,
  claims: (paths, { extension: other, writes }) => [
    ...(other === undefined ? paths : paths.map((path) => withExtension(path, other))),
    ...[writes ?? []].flat().map((pattern) => ({ within: '.', pattern })),
  ],
  async run(assets, options, context) {
    const { applyModule } = await import('./work/apply.js');
    return applyModule(assets, options, context);
  },
};
