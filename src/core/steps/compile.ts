import { copiedText, extensionOf, kindOf, rewritten, textOf, withExtension, type Asset } from '../assets/asset.js';
import type { StepContext } from '../assets/context.js';
import { compilers } from '../compilers/index.js';
import { diagnostic } from '../diagnostics/index.js';
import { TextBuilder } from '../maps/index.js';
import { Field } from '../project/field.js';
import { folderList } from '../project/kinds.js';
import { mayHoldConstants, writeConstants } from '../scripts/constants.js';
import { parseOrFail } from './parse.js';
import type { Step } from './step.js';

/** Options of `compile`. */
export class CompileOptions {
  @Field(folderList, {
    doc: 'Folders in which Sass looks for what `@use` and `@import` name, beside the folder of the sheet itself.',
    default: 'none',
  })
  loadPaths?: string | string[];
}

/** Compiles each asset by its extension; scripts also get the profile's constants. */
export const compile: Step<CompileOptions> = {
  name: 'compile',
  doc: 'Compiles Sass to CSS, and TypeScript, JSX and newer JavaScript to what the target browsers know.',
  version: 1,
  options: CompileOptions,
  gathers: false,
  outputs: (paths) => paths.map(outputPath),
  async run([asset], options, context) {
    const compiled = await compileAsset(asset!, options, context);
    return [kindOf(compiled.path) === 'script' ? withConstants(compiled, context) : compiled];
  },
};

function outputPath(path: string): string {
  const extension = extensionOf(path);
  const compiled = compilers.find((one) => extension in one.extensions)?.extensions[extension];
  return compiled === undefined || compiled === extension ? path : withExtension(path, compiled);
}

async function compileAsset(asset: Asset, { loadPaths = [] }: CompileOptions, context: StepContext): Promise<Asset> {
  const extension = extensionOf(asset.path);
  const compiler = compilers.find((one) => extension in one.extensions);
  if (compiler) return compiler.compile(asset, outputPath(asset.path), { loadPaths: [loadPaths].flat() }, context);
  if (extension !== 'css')
    context.report(
      diagnostic('step-passed', {
        step: 'compile',
        kind: extension === '' ? 'files without an extension' : `.${extension} files`,
      }),
    );
  return asset;
}

function withConstants(asset: Asset, context: StepContext): Asset {
  const { constants, maps } = context.settings;
  const text = textOf(asset);
  if (!mayHoldConstants(text, constants)) return asset;
  const { program } = parseOrFail(asset, text, context);
  const out = new TextBuilder(maps);
  writeConstants(copiedText(asset, text, maps), program, constants, out);
  if (out.text === text) return asset;
  return rewritten(asset, out.text, out.map());
}
