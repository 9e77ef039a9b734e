import { isKnownModule, withComposedMap, sourceName, textOf, type Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { formatOf, kindOf } from '../../languages/formats.js';
import { encodeText } from '../../files/text.js';
import { minifyScript as minifyScript, type MinifyScriptChoices } from '../../languages/js/minify/minify.js';
import { explained, reportSkipped } from './parse.js';

/**
 * Minifies a style sheet or script.
 *
 * @param licencesPath the path of the licence file, if requested
 */
export async function minifyAsset(
  asset: Asset,
  choices: MinifyScriptChoices,
  context: StepContext,
  licencesPath: string,
): Promise<Asset[]> {
  const text = textOf(asset);
  const { browsers, maps } = context.settings;
  const source = maps ? sourceName(asset) : undefined;
  if (kindOf(asset.path) === 'script') {
    const module = isKnownModule(asset) || formatOf(asset.path)?.isModule;
    const result = explained(asset, text, context, () =>
      minifyScript(text, { module, source, browsers, constants: context.settings.constants }, choices),
    );
    const made = withComposedMap(asset, result.text, result.map);
    return choices.licences === 'file' ? [made, licencesOf(made, result.licences, licencesPath)] : [made];
  }
  // Loaded when there is a sheet: scripts need not wait for its parser.
  const { minifyStyle: minifyStyle } = await import('../../languages/css/minify/minify.js');
  const result = explained(asset, text, context, () => minifyStyle(text, browsers, source, choices.ascii));
  reportSkipped(asset, text, result.skipped, context);
  return [withComposedMap(asset, result.text, result.map)];
}

/** The licences of a script as a file; the file exists even without licences. */
function licencesOf(script: Asset, licences: readonly string[], path: string): Asset {
  const text = licences.map((one) => `${one.replaceAll('\r\n', '\n')}\n`).join('\n');
  return { id: path, path, bytes: encodeText(text), origins: script.origins, isPristine: false };
}
