import { Field } from '../config/field.js';
import { choice } from '../config/value-types.js';
import type { Step } from './step.js';

/** Options of `recompress`. */
export class RecompressOptions {
  @Field(choice('quick', 'normal', 'thorough'), {
    doc: 'How many ways of packing PNG and GIF files are tried.',
    default: '`normal`',
  })
  effort?: 'quick' | 'normal' | 'thorough';
}

/** Makes pictures smaller without changing what they show. */
export const recompress: Step<RecompressOptions> = {
  name: 'recompress',
  doc: 'Makes PNG, JPEG, GIF, WebP and SVG pictures smaller without changing what they show.',
  version: 3,
  options: RecompressOptions,
  mainOption: 'effort',
  gathers: () => false,
  settings: () => [],
  toolVersions: () => ['@jsquash/oxipng'],
  runsInProcess: () => true,
  claims: (paths) => paths,
  async run([asset], options, context) {
    const { recompressAsset } = await import('./work/recompress.js');
    return [await recompressAsset(asset!, options, context)];
  },
};
