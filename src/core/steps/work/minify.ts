import { remade, sourceName, textOf, type Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { kindOf } from '../../assets/kind.js';
import { minify as minifyScript } from '../../scripts/minify/minify.js';
import { explained, reportSkipped } from './parse.js';

/** A style sheet or script made smaller. */
export async function minifyAsset(asset: Asset, context: StepContext): Promise<Asset> {
  const text = textOf(asset);
  const source = context.settings.maps ? sourceName(asset) : undefined;
  if (kindOf(asset.path) === 'script') {
    const isModule = asset.path.endsWith('.mjs') ? true : asset.path.endsWith('.cjs') ? false : undefined;
    const result = explained(asset, text, context, () => minifyScript(text, { module: isModule, source }));
    return remade(asset, result.text, result.map);
  }
  // Loaded when there is a sheet: scripts need not wait for its parser.
  const { minify: minifyStyle } = await import('../../styles/minify/minify.js');
  const result = explained(asset, text, context, () => minifyStyle(text, context.settings.browsers, source));
  reportSkipped(asset, text, result.skipped, context);
  return remade(asset, result.text, result.map);
}
