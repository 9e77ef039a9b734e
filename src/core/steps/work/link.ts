import { posix } from 'node:path';
import type { Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { encodeText } from '../../files/text.js';
import { kindOf, withExtension, type AssetKind } from '../../languages/formats.js';
import type { Entry } from '../../languages/js/link/bundle.js';
import { evaluationOrder, LinkedModule } from '../../languages/js/link/graph.js';
import { LinkedBundle } from '../../languages/js/link/linked-bundle.js';
import { printModuleFile, type PrintedFile, type ScriptForm } from '../../languages/js/link/print.js';
import { SectionBuilder } from '../../languages/source-maps/index.js';
import { checkCycles, checkImports, checkParts, checkScripts } from './link-checks.js';
import { checkCopies } from './package-copies.js';
import { ModuleLoader, type LoadOptions } from './module-loader.js';
import { SharedFiles } from './shared-files.js';
import type { SheetLinker } from './sheet-linker.js';

/** How modules are linked. */
export interface LinkSettings extends LoadOptions {
  /** Whether code that nothing uses is left out. */
  readonly removesUnused: boolean;
  /** The folder of shared files, relative to `to`. */
  readonly folder: string;
  /** The form of linked entry points: ES modules, or classic scripts with everything in one file. */
  readonly as: 'module' | 'script';
  /** The global variable of a classic script that gets the exports of the entry point. */
  readonly global?: string | undefined;
}

/**
 * Links scripts and style sheets with what they import; other assets pass unchanged.
 *
 * @param pathOf the path of a linked entry point
 * @returns the linked entry points, the files that they share, and the files that they refer to
 */
export async function linkAssets(
  assets: readonly Asset[],
  pathOf: (path: string) => string,
  settings: LinkSettings,
  context: StepContext,
): Promise<Asset[]> {
  const ofKind = (kind: AssetKind): readonly Asset[] => assets.filter(({ path }) => kindOf(path) === kind);
  const shared = new SharedFiles(
    settings.folder,
    assets.map(({ path }) => pathOf(path)),
  );
  // Loaded when there are sheets.
  let sheetLinker: Promise<SheetLinker> | undefined;
  const sheets: Sheets = () =>
    (sheetLinker ??= import('./sheet-linker.js').then(
      (work) => new work.SheetLinker(shared, settings.conditions, context),
    ));
  const linked: Asset[] = [];
  for (const sheet of ofKind('style'))
    linked.push(...(await (await sheets()).link([sheet], sheet.path, sheet.origins[0] ?? sheet.path)));
  const scripts = ofKind('script');
  if (scripts.length > 0) linked.push(...(await linkScripts(scripts, pathOf, settings, shared, sheets, context)));
  return [...ofKind('other'), ...linked, ...shared.assets];
}

/** Loads the linker of style sheets. */
type Sheets = () => Promise<SheetLinker>;

/** Links scripts with the modules that they import, and the style sheets among these. */
async function linkScripts(
  assets: readonly Asset[],
  pathOf: (path: string) => string,
  settings: LinkSettings,
  shared: SharedFiles,
  sheets: Sheets,
  context: StepContext,
): Promise<Asset[]> {
  const loader = new ModuleLoader(context, settings);
  const modules = await loader.load(assets);
  if (modules) {
    checkImports(loader, context);
    checkCycles(loader, modules, context);
    checkCopies(loader, context);
    if (settings.as === 'script') checkScripts(loader, modules);
  }
  if (!modules || loader.hasErrors) return [];
  const entries = assets.map((asset, at) => ({ module: modules[at]!, path: pathOf(asset.path) }));
  const ids = new Map(assets.map((asset) => [pathOf(asset.path), asset.id]));
  return new Linker(loader, settings, shared, sheets, context, ids).link(entries);
}

/** Bundles in which all code is kept, for the next edit of a module; those that were linked least recently are evicted. */
const kept = new Map<string, LinkedBundle>();

/** The maximum number of modules of bundles that are kept. */
const maxKept = 20_000;

function keep(key: string, bundle: LinkedBundle): void {
  kept.set(key, bundle);
  let size = [...kept.values()].reduce((sum, one) => sum + one.size, 0);
  for (const [oldest, { size: released }] of kept) {
    if (size <= maxKept) return;
    kept.delete(oldest);
    size -= released;
  }
}

class Linker {
  readonly #outputs: Asset[] = [];
  /** The paths of sheets that relative URLs refer to, by source. */
  readonly #sheetPaths = new Map<string, string>();

  constructor(
    private readonly loader: ModuleLoader,
    private readonly settings: LinkSettings,
    private readonly shared: SharedFiles,
    private readonly sheets: Sheets,
    private readonly context: StepContext,
    /** The ids of entry points by path. */
    private readonly ids: ReadonlyMap<string, string>,
  ) {}

  async link(entries: readonly Entry[]): Promise<Asset[]> {
    const workers = await this.#placeUrls(entries);
    const { as, global } = this.settings;
    if (as === 'module') this.#print([...entries, ...workers]);
    else {
      for (const entry of entries) this.#print([entry], { global });
      if (workers.length > 0) this.#print(workers);
    }
    if (this.loader.hasErrors) return [];
    for (const entry of entries) await this.#joinSheets(entry);
    const lost = entries.find(({ path }) => !this.#outputs.some((one) => one.path === path));
    if (lost) throw new Error(`the entry point ${lost.path} is not among the linked files`);
    return this.#outputs;
  }

  /** Gives the files of relative URLs their paths; returns the scripts among them, which are entry points of workers. */
  async #placeUrls(entries: readonly Entry[]): Promise<Entry[]> {
    const paths = new Map<LinkedModule, string>(entries.map(({ module, path }) => [module, path]));
    const workers: Entry[] = [];
    for (const { module, url, target } of this.loader.urls) {
      let path = target instanceof LinkedModule ? paths.get(target) : await this.#pathOfFile(target);
      if (path === undefined) {
        path = this.shared.freePath(withExtension(posix.basename(target.path), 'js'));
        paths.set(target as LinkedModule, path);
        workers.push({ module: target as LinkedModule, path });
      }
      module.urlTargets.set(url, path);
    }
    return workers;
  }

  /** The path of a file that a relative URL refers to; a style sheet is linked with what it imports. */
  async #pathOfFile(asset: Asset): Promise<string> {
    if (kindOf(asset.path) !== 'style') return this.shared.pathOf(asset);
    const source = asset.origins[0] ?? asset.path;
    const known = this.#sheetPaths.get(source);
    if (known !== undefined) return known;
    const path = this.shared.freePath(posix.basename(asset.path));
    this.#sheetPaths.set(source, path);
    const made = await (await this.sheets()).link([asset], path, source);
    this.#outputs.push(...made.map((one) => ({ ...one, id: one.path })));
    return path;
  }

  /** Prints files that share code; a classic script shares none. */
  #print(entries: readonly Entry[], script?: ScriptForm): void {
    const { removesUnused, folder, externals } = this.settings;
    const paths = entries.map(({ module, path }) => [module.path, path]);
    const key = JSON.stringify([paths, { ...this.settings, externals: [...externals] }, script ?? null]);
    const before = kept.get(key);
    // An error may leave it half renewed.
    kept.delete(key);
    const linked = before?.renew(this.loader.modules)
      ? before
      : new LinkedBundle(entries, this.loader.modules, { folder, removesUnused, script });
    const { bundle } = linked;
    if (script && !checkParts(bundle, this.loader)) return;
    const current = (modules: Iterable<LinkedModule>): LinkedModule[] =>
      [...new Set(modules)].map((one) => linked.current(one));
    const add = (path: string, modules: readonly LinkedModule[], print: (out: SectionBuilder) => PrintedFile): void =>
      this.#add(path, current(modules), (out) => {
        const { references, lengths } = print(out);
        return { references, lengths: new Map([...lengths].map(([one, length]) => [linked.current(one), length])) };
      });
    for (const chunk of bundle.graph.chunks)
      add(bundle.pathOf(chunk), [...chunk.definitions, ...chunk.modules], (out) => linked.print(chunk, out));
    if (!script)
      for (const file of bundle.separateFiles)
        add(file.path, [file.module], (out) => printModuleFile(bundle, file, out));
    if (!removesUnused) keep(key, linked);
  }

  #add(path: string, modules: readonly LinkedModule[], print: (out: SectionBuilder) => PrintedFile): void {
    const out = new SectionBuilder(this.context.settings.maps);
    const { references, lengths } = print(out);
    const linked = [...lengths].map(([module, length]) => ({
      source: module.path,
      length,
      importers: this.loader.importersOf(module).map((one) => one.path),
    }));
    const map = out.map();
    const origins = [...new Set(modules.flatMap((one) => this.loader.assetOf(one).origins))];
    this.#outputs.push({
      id: this.ids.get(path) ?? path,
      path,
      bytes: encodeText(out.text),
      origins,
      isPristine: false,
      references,
      linked,
      ...(map && { map }),
    });
  }

  /** Links the style sheets that an entry point and its modules import, in the order in which these are evaluated. */
  async #joinSheets({ module, path }: Entry): Promise<void> {
    const sheets = new Set<LinkedModule>();
    const roots = [module];
    const seen = new Set<LinkedModule>();
    for (const root of roots)
      for (const one of evaluationOrder(root, (other) => [...other.dependencies, ...other.required])) {
        if (seen.has(one)) continue;
        seen.add(one);
        if (one.record.format === 'style') sheets.add(one);
        roots.push(...one.requested.filter((other) => !seen.has(other)));
      }
    if (sheets.size === 0) return;
    const assets = [...sheets].map((one) => this.loader.assetOf(one));
    const linker = await this.sheets();
    const made = await linker.link(assets, withExtension(path, 'css'), module.path);
    // Several entry points may import the same sheet alone, whose id theirs are not.
    this.#outputs.push(...made.map((one) => ({ ...one, id: one.path })));
  }
}
