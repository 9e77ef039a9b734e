import { kindOf } from '../assets/kind.js';
import { Field } from '../config/field.js';
import { text, writtenPath } from '../config/value-types.js';
import type { Step } from './step.js';

/** Options of `join`. */
export class JoinOptions {
  @Field(writtenPath, { doc: 'The name of the joined file, relative to `to`.', required: true })
  into!: string;

  @Field(text, { doc: 'A text that is put at the head of the joined file, as a comment.', default: 'none' })
  banner?: string;
}

/** Joins all assets of the pipeline, in order, into one. */
export const join: Step<JoinOptions> = {
  name: 'join',
  doc: 'Joins scripts, or style sheets, in order, into one file.',
  version: 3,
  options: JoinOptions,
  mainOption: 'into',
  isAggregate: true,
  toolVersions: (path) => [kindOf(path) === 'style' ? 'css-tree' : 'acorn'],
  runsInProcess: () => true,
  claims: (_, { into }) => [into],
  async run(assets, { into, banner }, context) {
    const { joinAssets } = await import('./work/join.js');
    return [await joinAssets(assets, into, banner, context)];
  },
};
