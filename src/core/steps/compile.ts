import { extensionOf, kindOf, withExtension } from '../languages/formats.js';
import type { Asset } from '../assets/asset.js';
import type { StepContext } from '../assets/context.js';
import type { Compiler } from '../compilers/compiler.js';
import { compilers } from '../compilers/index.js';
import { diagnostic } from '../diagnostics/index.js';
import { Field } from '../config/field.js';
import { dottedGlobal, folderList, seconds } from '../config/value-types.js';
import type { Step } from './step.js';

/** Options of `compile`. */
export class CompileOptions {
  @Field(folderList, {
    doc: 'Folders that Sass and Less search for imported sheets, in addition to the folder of the file.',
    default: 'none',
  })
  loadPaths?: string | string[];

  @Field(seconds, {
    doc: 'The maximum time that Sass may take for one file, in seconds.',
    default: '120',
  })
  timeLimit?: number;

  @Field(dottedGlobal, {
    doc: 'A global object that gets Handlebars and Pug templates as functions, by their paths without the extension: they become classic scripts, for `join`.',
    default: 'none: they become modules whose default export is the function',
  })
  templates?: string;
}

const defaultTimeLimit = 120;

/** Compiles each asset by its extension; scripts also get the profile's constants. */
export const compile: Step<CompileOptions> = {
  name: 'compile',
  doc: 'Compiles Sass and Less to CSS, TypeScript, JSX, CoffeeScript and modern JavaScript to the syntax that all target browsers support, and templates to functions.',
  version: 28,
  options: CompileOptions,
  gathers: () => false,
  checksSyntax: true,
  settings: (path) =>
    kindOf(outputPath(path)) === 'script' ? ['browsers', 'constants', 'isLinked', 'maps', 'secrets'] : ['maps'],
  toolVersions: (path) => [
    ...(compilerFor(path)?.toolVersions ?? []),
    ...(kindOf(outputPath(path)) === 'script' ? ['acorn' as const] : []),
  ],
  runsInProcess: (path) => compilerFor(path)?.runsInProcess ?? true,
  claims: (paths) => paths.map(outputPath),
  async warmUp(paths, context) {
    // Most scripts in the newest language need no changes: the compiler is not started for them alone.
    const wanted = paths.filter((path) => outputPath(path) !== path).map(compilerFor);
    for (const compiler of new Set(wanted)) await compiler?.warmUp(context);
  },
  async run([asset], options, context) {
    const compiled = await compileAsset(asset!, options, context);
    if (kindOf(compiled.path) !== 'script') return [compiled];
    const { constants, secrets } = context.settings;
    if (Object.keys(constants).length + secrets.length === 0) return [compiled];
    // Loaded when there are constants: a script without any need not wait for the parser.
    const { withConstants } = await import('./work/constants.js');
    return [withConstants(compiled, context)];
  },
};

const compilerFor = (path: string): Compiler | undefined =>
  compilers.find((one) => Object.hasOwn(one.extensions, extensionOf(path)));

function outputPath(path: string): string {
  const extension = extensionOf(path);
  const compiled = compilerFor(path)?.extensions[extension];
  return compiled === undefined || compiled === extension ? path : withExtension(path, compiled);
}

async function compileAsset(
  asset: Asset,
  { loadPaths = [], timeLimit = defaultTimeLimit, templates }: CompileOptions,
  context: StepContext,
): Promise<Asset> {
  const extension = extensionOf(asset.path);
  const compiler = await compilerFor(asset.path)?.load();
  const options = { loadPaths: [loadPaths].flat(), timeLimit, ...(templates !== undefined && { templates }) };
  if (compiler) return compiler(asset, outputPath(asset.path), options, context);
  if (extension !== 'css' && extension !== 'json')
    context.report(
      diagnostic('step-passed', {
        step: 'compile',
        kind: extension === '' ? 'files without an extension' : `.${extension} files`,
      }),
    );
  return asset;
}
