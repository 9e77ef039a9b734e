import { posix } from 'node:path';
import { copiedText, textOf, type Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { diagnostic, fail, type Diagnostic } from '../../diagnostics/index.js';
import { encodeText } from '../../files/text.js';
import type { NewUrl } from '../../languages/css/copied-sheet.js';
import type { ImportRule } from '../../languages/css/link/import-rule.js';
import {
  SheetFiles,
  sheetsOf,
  TooManyImportsError,
  type LinkedSheet,
  type SheetFile,
} from '../../languages/css/link/linked-sheet.js';
import { printSheetFile } from '../../languages/css/link/print-sheet.js';
import { sheetRecord } from '../../languages/css/link/sheet-record.js';
import { parseStyle } from '../../languages/css/parse.js';
import { compiledPath, kindOf } from '../../languages/formats.js';
import { localPath, type Reference } from '../../languages/references/index.js';
import { explained } from './parse.js';
import type { SharedFiles } from './shared-files.js';
import { unresolved } from './unresolved.js';

/** A sheet whose imports are still being loaded. */
interface LoadedSheet extends LinkedSheet {
  readonly asset: Asset;
  readonly targets: Map<ImportRule, LoadedSheet>;
  /** The sheets that import it. */
  readonly importers: Set<string>;
  /** Problems that are not reported yet. */
  readonly problems: Diagnostic[];
}

/** Links style sheets with those that they import. */
export class SheetLinker {
  readonly #sheets = new Map<string, Promise<LoadedSheet | undefined>>();
  readonly #files = new Map<string, Promise<Asset | undefined>>();

  /**
   * @param shared the files beside entry points
   * @param conditions conditions of packages besides `style`
   */
  constructor(
    private readonly shared: SharedFiles,
    private readonly conditions: readonly string[],
    private readonly context: StepContext,
  ) {}

  /**
   * Links an entry point.
   *
   * @param assets the sheets that it consists of, one after the other
   * @param path of the linked sheet
   * @param source the file that stands for it: URLs are relative to its folder as they are to that of `path`
   * @returns the linked sheet and the sheets that it imports
   */
  async link(assets: readonly Asset[], path: string, source: string): Promise<readonly Asset[]> {
    const sheets: LoadedSheet[] = [];
    for (const asset of assets) sheets.push(await this.#entry(asset, sourceOf(asset)));
    this.#report(sheets);
    const files = new SheetFiles();
    const file = this.#file(files, sheets, source);
    for (const { sheet, rule } of files.circular) {
      const { asset, record } = sheet as LoadedSheet;
      const place = this.context.place(asset, record.from.text, rule.start, rule.end);
      this.context.report(diagnostic('link-sheet-cycle', { url: rule.url }, place));
    }
    const [entry, ...others] = await this.#print(file, path, { path, source }, new Map([[file, path]]));
    return [{ ...entry!, id: assets.length === 1 ? assets[0]!.id : path }, ...others];
  }

  /** The sheet of an entry point, which another one may import. */
  async #entry(asset: Asset, source: string): Promise<LoadedSheet> {
    const known = await this.#sheets.get(source);
    if (known) return known;
    const sheet = this.#read(asset, source);
    this.#sheets.set(source, Promise.resolve(sheet));
    await this.#follow(sheet);
    return sheet;
  }

  /** Reports the problems of sheets and of those that they import, in order, whichever was loaded first. */
  #report(sheets: readonly LoadedSheet[]): void {
    const seen = new Set<LoadedSheet>();
    const open = sheets.toReversed();
    for (let sheet = open.pop(); sheet; sheet = open.pop()) {
      if (seen.has(sheet)) continue;
      seen.add(sheet);
      for (const one of sheet.problems.splice(0)) this.context.report(one);
      const { record, targets } = sheet;
      const imported = record.head.flatMap((one) => (one.kind === 'import' ? (targets.get(one.rule) ?? []) : []));
      open.push(...imported.reverse());
    }
  }

  #file(files: SheetFiles, sheets: readonly LoadedSheet[], source: string): SheetFile {
    try {
      return files.fileOf(sheets, source);
    } catch (error) {
      if (error instanceof TooManyImportsError) return fail('too-deep', { isLinked: true }, { file: source });
      throw error;
    }
  }

  #read(asset: Asset, source: string): LoadedSheet {
    const text = textOf(asset);
    const { children } = explained(asset, text, this.context, () => parseStyle(text)).sheet;
    const record = sheetRecord(copiedText(asset, text, this.context.settings.maps), children);
    const problems = record.late.map(({ start, end }) => {
      const name = /[\w-]+/.exec(text.slice(start, end))![0];
      return diagnostic('link-sheet-late', { name }, this.context.place(asset, text, start, end));
    });
    return { asset, source, record, targets: new Map(), importers: new Set(), problems };
  }

  /** Loads what a sheet imports. */
  async #follow(sheet: LoadedSheet): Promise<void> {
    const waiting: Promise<void>[] = [];
    for (const one of sheet.record.head) {
      if (one.kind !== 'import') continue;
      const source = this.#resolve(sheet, one.rule);
      if (source === undefined) continue;
      // A sheet is followed by the first one that imports it, so that cycles do not wait for each other.
      const known = this.#sheets.get(source);
      const loading = known ?? this.#load(source);
      this.#sheets.set(source, loading);
      waiting.push(
        loading.then(async (target) => {
          if (!target) return;
          sheet.targets.set(one.rule, target);
          target.importers.add(sheet.source);
          if (!known) await this.#follow(target);
        }),
      );
    }
    await Promise.all(waiting);
  }

  async #load(source: string): Promise<LoadedSheet | undefined> {
    const asset = await this.context.load(source);
    return asset && this.#read(asset, source);
  }

  /** The source of an import; undefined for URLs that are left to the page. */
  #resolve(
    { asset, source, record, problems }: LoadedSheet,
    { url, urlStart, urlEnd }: ImportRule,
  ): string | undefined {
    const path = localPath(url);
    if (path === undefined || path.startsWith('/')) return undefined;
    const options = { kind: 'style', conditions: this.conditions } as const;
    const isPackage = !path.startsWith('.');
    // A URL without `./` is relative as well; only packages are named like that.
    const found =
      this.context.resolve(isPackage ? `./${path}` : path, source, options) ||
      (isPackage ? this.context.resolve(path, source, options) : undefined);
    const place = this.context.place(asset, record.from.text, urlStart, urlEnd);
    if (typeof found !== 'string') {
      const isFile = isPackage && /\.\w+$/.test(path) && !path.startsWith('@');
      problems.push(unresolved(isFile ? `./${path}` : path, source, this.context, place));
      return undefined;
    }
    if (kindOf(compiledPath(found)) === 'style') return found;
    problems.push(diagnostic('link-sheet-kind', { file: found }, place));
    return undefined;
  }

  /**
   * Prints a file and those that it imports.
   *
   * @param entry the entry point: its path, and the source that stands for it
   */
  async #print(
    file: SheetFile,
    path: string,
    entry: { readonly path: string; readonly source: string },
    paths: Map<SheetFile, string>,
  ): Promise<Asset[]> {
    const sheets = file.parts.flatMap(sheetsOf) as LoadedSheet[];
    const urls = new Map<LinkedSheet, readonly NewUrl[]>();
    for (const sheet of sheets) urls.set(sheet, await this.#urlsOf(sheet, path, entry));
    const others = new Set(file.parts.flatMap((part) => (part.kind === 'import' && part.file ? [part.file] : [])));
    const started = [...others].filter((one) => !paths.has(one));
    for (const one of started) paths.set(one, this.shared.freePath(`${posix.parse(one.source).name}.css`));
    const { text, map, lengths } = printSheetFile(
      file,
      {
        urlsOf: (sheet) => urls.get(sheet)!,
        urlTo: (other) => posix.relative(posix.dirname(path), paths.get(other)!),
      },
      this.context.settings.maps,
    );
    const asset: Asset = {
      id: path,
      path,
      bytes: encodeText(text),
      origins: sheets.length === 0 ? [file.source] : [...new Set(sheets.flatMap(({ asset }) => asset.origins))],
      isPristine: false,
      linked: [...lengths].map(([sheet, length]) => ({
        source: sheet.source,
        length,
        importers: [...(sheet as LoadedSheet).importers].sort(),
      })),
      ...(map && { map }),
    };
    const printed = [asset];
    for (const one of started) printed.push(...(await this.#print(one, paths.get(one)!, entry, paths)));
    return printed;
  }

  /** The URLs in a sheet as they are in a file. */
  async #urlsOf(
    { source, record }: LoadedSheet,
    path: string,
    entry: { readonly path: string; readonly source: string },
  ): Promise<readonly NewUrl[]> {
    const urls: NewUrl[] = [];
    for (const one of record.references) {
      const target = await this.#targetOf(one, source, entry);
      if (target !== undefined) urls.push({ ...one, url: posix.relative(posix.dirname(path), target) + suffixOf(one) });
    }
    return urls;
  }

  /**
   * The path of a referenced file relative to `to`. Where a pipeline writes the file, it keeps its place; otherwise it
   * becomes an output if it exists.
   *
   * @returns undefined for URLs that are no relative paths
   */
  async #targetOf(
    { url }: Reference,
    source: string,
    entry: { readonly path: string; readonly source: string },
  ): Promise<string | undefined> {
    const path = localPath(url);
    if (path === undefined || path.startsWith('/')) return undefined;
    const file = posix.join(posix.dirname(source), path);
    const place = posix.join(posix.dirname(entry.path), posix.relative(posix.dirname(entry.source), file));
    if (this.context.publishes(place)) return asUrl(place);
    const asset = await this.#fileAt(file);
    return asUrl(asset ? this.shared.pathOf(asset) : place);
  }

  #fileAt(file: string): Promise<Asset | undefined> {
    let loading = this.#files.get(file);
    if (!loading) {
      loading =
        !file.startsWith('../') && this.context.exists(file) ? this.context.load(file) : Promise.resolve(undefined);
      this.#files.set(file, loading);
    }
    return loading;
  }
}

/** The query and the fragment of a URL. */
const suffixOf = ({ url }: Reference): string => /[?#].*$/s.exec(url)?.[0] ?? '';

/** The URL of a path. */
const asUrl = (path: string): string => encodeURI(path).replace(/[?#]/g, encodeURIComponent);

const sourceOf = (asset: Asset): string => asset.origins[0] ?? asset.path;
