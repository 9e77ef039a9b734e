import { copiedText, withMap, textOf, type Asset } from '../../assets/asset.js';
import { diagnostic } from '../../diagnostics/index.js';
import type { StepContext } from '../../assets/context.js';
import { TextBuilder } from '../../languages/source-maps/index.js';
import { mayHoldConstants, writeConstants } from '../../languages/js/constants.js';
import { parseOrFail } from './parse.js';

/** A script with the profile's constants in the place of their names. */
export function withConstants(asset: Asset, context: StepContext): Asset {
  const { constants, maps } = context.settings;
  const text = textOf(asset);
  checkSecrets(asset, text, context);
  if (!mayHoldConstants(text, constants)) return asset;
  const { program } = parseOrFail(asset, text, context);
  const out = new TextBuilder(maps);
  writeConstants(copiedText(asset, text, maps), program, constants, out);
  if (out.text === text) return asset;
  return withMap(asset, out.text, out.map());
}

/** Reports secret constants that a script uses. */
function checkSecrets(asset: Asset, text: string, context: StepContext): void {
  for (const { name } of context.settings.secrets) {
    const constants = { [name]: null };
    if (!mayHoldConstants(text, constants)) continue;
    const out = new TextBuilder(false);
    const { program } = parseOrFail(asset, text, context);
    writeConstants(copiedText(asset, text, false), program, constants, out);
    if (out.text === text) continue;
    // The texts are the same up to the first use.
    let start = 0;
    while (out.text[start] === text[start]) start++;
    context.report(diagnostic('constant-secret', { name }, context.place(asset, text, start, start + name.length)));
  }
}
