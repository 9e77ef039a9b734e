import { copiedText, withMap, textOf, type Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { TextBuilder } from '../../languages/source-maps/index.js';
import { mayHoldConstants, writeConstants } from '../../languages/js/constants.js';
import { parseOrFail } from './parse.js';

/** A script with the profile's constants in the place of their names. */
export function withConstants(asset: Asset, context: StepContext): Asset {
  const { constants, maps } = context.settings;
  const text = textOf(asset);
  if (!mayHoldConstants(text, constants)) return asset;
  const { program } = parseOrFail(asset, text, context);
  const out = new TextBuilder(maps);
  writeConstants(copiedText(asset, text, maps), program, constants, out);
  if (out.text === text) return asset;
  return withMap(asset, out.text, out.map());
}
