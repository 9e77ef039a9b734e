import { copiedText, textOf, withMap, type Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { DiagnosticError } from '../../diagnostics/index.js';
import { minifyStyle } from '../../languages/css/minify/minify.js';
import type { InlineCode } from '../../languages/html/minify/inline-code.js';
import { minifyPage } from '../../languages/html/minify/minify.js';
import type { WhiteSpace } from '../../languages/html/minify/white-space.js';
import { minifyScript, type MinifyScriptChoices } from '../../languages/js/minify/minify.js';
import { explainedAt } from './parse.js';

/** Minifies a page, with the scripts and style sheets in it. Code with syntax errors stays as it is, with a warning. */
export function minifyPageAsset(
  asset: Asset,
  choices: MinifyScriptChoices & { readonly whiteSpace?: WhiteSpace },
  context: StepContext,
): Asset {
  const text = textOf(asset);
  const { browsers, constants, maps } = context.settings;
  // Attributes and other scripts use global names.
  const scriptChoices: MinifyScriptChoices = {
    ...choices,
    renameGlobals: false,
    licences: choices.licences === 'none' ? 'none' : 'keep',
  };
  const minifyCode = ({ kind, text: code, start }: InlineCode): string | undefined => {
    try {
      return explainedAt(asset, text, start, context, () =>
        kind === 'style'
          ? minifyStyle(code, browsers, undefined, choices.ascii).text
          : minifyScript(code, { module: kind === 'module', source: undefined, browsers, constants }, scriptChoices)
              .text,
      ).trim();
    } catch (error) {
      if (!(error instanceof DiagnosticError)) throw error;
      for (const one of error.diagnostics) context.report({ ...one, severity: 'warning' });
      return undefined;
    }
  };
  const short = minifyPage(copiedText(asset, text, maps), choices.whiteSpace ?? 'collapse', minifyCode, maps);
  return short.text === text ? asset : withMap(asset, short.text, maps ? short.map : undefined);
}
