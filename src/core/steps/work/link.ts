import type { Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { encodeText } from '../../files/text.js';
import { Bundle } from '../../languages/js/link/bundle.js';
import type { LinkedModule } from '../../languages/js/link/graph.js';
import { printChunk, printModuleFile } from '../../languages/js/link/print.js';
import { UsedCode } from '../../languages/js/link/used-code.js';
import { TextBuilder } from '../../languages/source-maps/index.js';
import { checkImports } from './link-checks.js';
import { ModuleLoader } from './module-loader.js';

/**
 * Links scripts with the modules that they import.
 *
 * @param pathOf the path of a linked entry point
 * @param folder the folder of shared files, relative to `to`
 * @param removesUnused whether code without use is left out
 */
export async function linkAssets(
  entries: readonly Asset[],
  pathOf: (path: string) => string,
  folder: string,
  removesUnused: boolean,
  context: StepContext,
): Promise<Asset[]> {
  const loader = new ModuleLoader(context, removesUnused);
  const modules = await loader.load(entries);
  if (modules) checkImports(loader, context);
  if (!modules || loader.hasErrors) return [];
  const bundle = new Bundle(
    entries.map((asset, at) => ({ module: modules[at]!, path: pathOf(asset.path) })),
    folder,
    loader.failing,
    new UsedCode(modules, loader.modules.values()),
  );
  const ids = new Map(entries.map((asset) => [pathOf(asset.path), asset.id]));
  const { maps } = context.settings;
  const asset = (path: string, linked: readonly LinkedModule[], print: (out: TextBuilder) => void): Asset => {
    const out = new TextBuilder(maps);
    print(out);
    const map = out.map();
    const origins = [...new Set(linked.flatMap((one) => loader.assetOf(one).origins))];
    return {
      id: ids.get(path) ?? path,
      path,
      bytes: encodeText(out.text),
      origins,
      isPristine: false,
      ...(map && { map }),
    };
  };
  return [
    ...bundle.graph.chunks.map((chunk) =>
      asset(bundle.pathOf(chunk), chunk.modules, (out) => printChunk(bundle, chunk, out)),
    ),
    ...bundle.separateFiles.map((file) => asset(file.path, [file.module], (out) => printModuleFile(bundle, file, out))),
  ];
}
