import { kindOf } from '../languages/formats.js';
import { Field } from '../config/field.js';
import { text, writtenPath } from '../config/value-types.js';
import type { Step } from './step.js';

/** Options of `join`. */
export class JoinOptions {
  @Field(writtenPath, { doc: 'The name of the joined file, relative to `to`.', required: true })
  into!: string;

  @Field(text, { doc: 'A comment for the top of the joined file.', default: 'none' })
  banner?: string;
}

/** Joins all assets of the pipeline, in order, into one. */
export const join: Step<JoinOptions> = {
  name: 'join',
  doc: 'Joins scripts or style sheets into one file, in order.',
  version: 4,
  options: JoinOptions,
  mainOption: 'into',
  gathers: () => true,
  settings: () => ['maps'],
  toolVersions: (path) => [kindOf(path) === 'style' ? 'css-tree' : 'acorn'],
  runsInProcess: () => true,
  claims: (_, { into }) => [into],
  async run(assets, { into, banner }, context) {
    const { joinAssets } = await import('./work/join.js');
    return [await joinAssets(assets, into, banner, context)];
  },
};
