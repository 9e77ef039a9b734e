import { withComposedMap, sourceName, textOf, type Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { prefix as prefixStyle, type PrefixChoices } from '../../languages/css/prefix/prefix.js';
import { explained, reportSkipped } from './parse.js';

/** A style sheet with the spellings that only some target browsers know. */
export function prefixAsset(asset: Asset, choices: PrefixChoices, context: StepContext): Asset {
  const text = textOf(asset);
  const { browsers, maps } = context.settings;
  const source = maps ? sourceName(asset) : undefined;
  const result = explained(asset, text, context, () => prefixStyle(text, browsers, source, choices));
  reportSkipped(asset, text, result.skipped, context);
  return result.text === text ? asset : withComposedMap(asset, result.text, result.map);
}
