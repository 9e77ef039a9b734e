import { divide, type Chunk, type ChunkGraph } from './chunks.js';
import { resolveExport, type ResolvedExport } from './exports.js';
import type { LinkedModule } from './graph.js';
import { ChunkNames, namespaceName, stemOf, type ModuleName } from './names.js';
import type { ModuleRecord } from './record.js';
import type { UsedCode } from './used-code.js';

/** A file with exactly the exports of a module: an entry point, or one whose namespace is used as a value. */
export interface ModuleFile {
  readonly module: LinkedModule;
  readonly path: string;
  readonly exports: ReadonlyMap<string, ResolvedExport>;
}

/** An entry point and the path of its file. */
export interface Entry {
  readonly module: LinkedModule;
  readonly path: string;
}

/** A linked program: which module lies in which file, and the names by which files use each other. */
export class Bundle {
  readonly graph: ChunkGraph;
  readonly moduleFiles = new Map<LinkedModule, ModuleFile>();
  readonly #paths = new Map<Chunk, string>();
  readonly #merged = new Map<Chunk, ModuleFile>();
  readonly #names = new Map<Chunk, ChunkNames>();
  readonly #users = new Map<string, Set<LinkedModule>>();
  /** Names that other files need of a chunk. */
  readonly #exported = new Map<Chunk, Map<string, ModuleName>>();
  readonly #needed = new Map<LinkedModule, Set<string>>();
  readonly #takenPaths: Set<string>;
  /** Entry points, and modules that `import()` loads. */
  readonly #loaded: ReadonlySet<LinkedModule>;
  readonly #inline = new Map<LinkedModule, ReadonlyMap<string, ResolvedExport>>();

  /**
   * @param entries modules whose imports can all be resolved
   * @param folder the folder of shared files
   * @param isOneFile whether everything is in one file, for one entry point
   */
  constructor(
    readonly entries: readonly Entry[],
    private readonly folder: string,
    readonly used: UsedCode,
    isOneFile = false,
  ) {
    // Files with the name of an entry point would be taken for it.
    this.#takenPaths = new Set(entries.flatMap(({ path }) => [path, `${folder}/${stemOf(path)}.js`]));
    this.graph = divide(
      entries.map(({ module }) => module),
      used,
      isOneFile,
    );
    this.#loaded = new Set([
      ...entries.map(({ module }) => module),
      ...[...used.included].flatMap((one) => used.loadedBy(one)),
    ]);
    for (const { module, path } of entries) this.#addFile(module, path);
    for (const chunk of this.graph.chunks)
      for (const module of new Set([...chunk.definitions, ...chunk.modules])) this.#collect(module);
    for (const file of this.moduleFiles.values())
      for (const one of file.exports.values()) this.#need(one, file.module, undefined);
    this.#placeFiles();
    for (const chunk of this.graph.chunks)
      this.#names.set(
        chunk,
        new ChunkNames(
          chunk,
          (name) => [...(this.#users.get(keyOf(name)) ?? [])].filter((one) => this.#userChunk(one) === chunk),
          (module) => [...(this.#needed.get(module) ?? [])].sort(),
          ({ module, local }) => used.isDeclared(module, local),
          (module) => this.#inline.has(module),
        ),
      );
  }

  /**
   * Reports whether the namespace of a module is an object in its chunk. Others are those of files: where `import()` or the
   * page can see them, and in cycles of chunks, where they are used before their chunk is evaluated.
   */
  hasInlineNamespace(module: LinkedModule): boolean {
    return !this.#loaded.has(module) && !this.graph.isInSplitCycle(module);
  }

  /** The name that stands for an export in the chunk that declares it; undefined for namespaces that are files, and externals. */
  nameOf(resolved: ResolvedExport): ModuleName | undefined {
    if ('external' in resolved) return undefined;
    if ('local' in resolved) return resolved;
    return this.hasInlineNamespace(resolved.module) ? { module: resolved.module, local: namespaceName } : undefined;
  }

  /** The exports of a module whose namespace is an object in its chunk; undefined if it has none there. */
  inlineNamespaceOf(module: LinkedModule): ReadonlyMap<string, ResolvedExport> | undefined {
    return this.#inline.get(module);
  }

  /** The chunk that evaluates a module, or else defines it. */
  chunkOf(module: LinkedModule): Chunk {
    return this.graph.evaluatedIn.get(module) ?? this.graph.definedIn.get(module)!;
  }

  /** The chunk that declares a name of a module. */
  chunkOfName({ module, local }: ModuleName): Chunk {
    const isDefinition = module.record.format === 'json' || (module.record.format === 'commonjs' && local === '*');
    return isDefinition ? this.graph.definedIn.get(module)! : this.graph.evaluatedIn.get(module)!;
  }

  /** The names that a chunk's modules have in it. */
  namesOf(chunk: Chunk): ChunkNames {
    return this.#names.get(chunk)!;
  }

  /** The path of a chunk's file. */
  pathOf(chunk: Chunk): string {
    return this.#merged.get(chunk)?.path ?? this.#paths.get(chunk)!;
  }

  /** The module whose exports are those of a chunk's file, if there is one. */
  fileIn(chunk: Chunk): ModuleFile | undefined {
    return this.#merged.get(chunk);
  }

  /** Files that only export again what chunks hold. */
  get separateFiles(): ModuleFile[] {
    const merged = new Set(this.#merged.values());
    return [...this.moduleFiles.values()].filter((file) => !merged.has(file));
  }

  /** The names that other files import from a chunk, with the names that it exports them by. */
  exportsOf(chunk: Chunk): [name: ModuleName, exported: string][] {
    if ((this.#merged.get(chunk)?.exports.size ?? 0) > 0) return [];
    return [...(this.#exported.get(chunk)?.values() ?? [])].map((name) => [name, this.exportedName(name)]);
  }

  /** The name by which a chunk exports a name of one of its modules. */
  exportedName(name: ModuleName): string {
    const chunk = this.chunkOfName(name);
    const file = this.#merged.get(chunk);
    if (!file || file.exports.size === 0) return this.namesOf(chunk).of(name);
    return this.#exportsByName(file).get(keyOf(name))!;
  }

  /** The names of a CommonJS or JSON module that others import. */
  neededOf(module: LinkedModule): string[] {
    return [...(this.#needed.get(module) ?? [])].sort();
  }

  /** The chunk in which the code of a module lies. */
  #userChunk(module: LinkedModule): Chunk {
    return this.graph.definedIn.get(module) ?? this.graph.evaluatedIn.get(module)!;
  }

  /** Finds the meaning of all imports that a module uses. */
  #collect(module: LinkedModule): void {
    const { record } = module;
    for (const one of this.used.loadedBy(module)) this.#addFile(one);
    if (record.format === 'commonjs') {
      const evaluated = this.graph.evaluatedIn.get(module);
      if (evaluated) this.#need({ module, local: '*' }, module, evaluated);
      for (const one of module.required)
        this.#need(
          { module: one, local: one.record.format === 'json' ? 'default' : '*' },
          module,
          this.chunkOf(module),
        );
    }
    for (const { resolved, use, local } of this.used.importsOf(module)) {
      this.#need(resolved, module, this.#userChunk(module));
      if (!use.isWrite || record.format !== 'module') continue;
      const target = module.target(record.imports.get(local)!.request);
      if (typeof target !== 'string') this.#addFile(target);
    }
  }

  #need(resolved: ResolvedExport, user: LinkedModule, from: Chunk | undefined): void {
    if ('external' in resolved) return;
    const name = this.nameOf(resolved);
    if (!name) {
      this.#addFile(resolved.module);
      return;
    }
    if ('namespace' in resolved) this.#addNamespace(resolved.module);
    const { module, local } = name;
    const chunk = this.chunkOfName(name);
    const key = keyOf(name);
    this.#users.set(key, (this.#users.get(key) ?? new Set()).add(user));
    if (module.record.format !== 'module' && local !== '*' && local !== namespaceName)
      this.#needed.set(module, (this.#needed.get(module) ?? new Set()).add(local));
    if (chunk !== from && from !== undefined) this.#export(chunk, name);
  }

  #addNamespace(module: LinkedModule): void {
    if (this.#inline.has(module)) return;
    const exports = this.#exportsOf(module);
    this.#inline.set(module, exports);
    for (const one of exports.values()) this.#need(one, module, this.#userChunk(module));
  }

  /** Exports a name from its chunk, unless it is a certain one. */
  #exportFrom(own: Chunk | undefined, resolved: ResolvedExport): void {
    const name = this.nameOf(resolved);
    if (name && this.chunkOfName(name) !== own) this.#export(this.chunkOfName(name), name);
  }

  #export(chunk: Chunk, name: ModuleName): void {
    this.#exported.set(chunk, (this.#exported.get(chunk) ?? new Map<string, ModuleName>()).set(keyOf(name), name));
  }

  #addFile(module: LinkedModule, path?: string): void {
    if (this.moduleFiles.has(module)) return;
    const exports = this.#exportsOf(module);
    this.moduleFiles.set(module, { module, path: path ?? this.#freePath(module), exports });
    for (const one of exports.values()) if ('namespace' in one && !this.nameOf(one)) this.#addFile(one.module);
  }

  #exportsOf(module: LinkedModule): Map<string, ResolvedExport> {
    return new Map(this.used.exportsOf(module).map((name) => [name, resolveExport(module, name) as ResolvedExport]));
  }

  /** Lets chunks be the files of modules where their exports are the same, and exports what the other files need. */
  #placeFiles(): void {
    for (const file of this.moduleFiles.values()) {
      const chunk = this.chunkOf(file.module);
      if (this.#merged.has(chunk)) continue;
      const own = this.#exportsByName(file);
      const others = [...this.moduleFiles.values()].filter((other) => other !== file);
      const exported = others.flatMap(({ exports }) => [...exports.values()].flatMap((one) => this.nameOf(one) ?? []));
      const needed = new Set(this.#exported.get(chunk)?.keys());
      for (const one of exported) if (this.chunkOfName(one) === chunk) needed.add(keyOf(one));
      // Nobody uses the namespace of an entry point without exports, so that it may export what others need.
      const near = new Set(chunk.modules.flatMap((module) => module.dependencies.map((one) => this.chunkOf(one))));
      // A file that it does not import otherwise would be evaluated too early.
      const isNear = [...file.exports.values()].every((one) => {
        if ('external' in one) return true;
        const name = this.nameOf(one);
        const other = name ? this.chunkOfName(name) : this.chunkOf(one.module);
        return other === chunk || near.has(other);
      });
      const isOpen = file.exports.size === 0 && this.entries.some(({ module }) => module === file.module);
      if (isOpen || (isNear && [...needed].every((key) => own.has(key)))) this.#merged.set(chunk, file);
    }
    for (const file of this.separateFiles) for (const one of file.exports.values()) this.#exportFrom(undefined, one);
    for (const [chunk, file] of this.#merged) for (const one of file.exports.values()) this.#exportFrom(chunk, one);
    for (const chunk of this.graph.chunks)
      if (!this.#merged.has(chunk))
        this.#paths.set(chunk, this.#freePath((chunk.modules.at(-1) ?? chunk.definitions.at(-1))!));
  }

  #exportsByName({ exports }: ModuleFile): Map<string, string> {
    const found = new Map<string, string>();
    for (const [exported, one] of exports) {
      const name = this.nameOf(one);
      if (name && !found.has(keyOf(name))) found.set(keyOf(name), exported);
    }
    return found;
  }

  #freePath(module: LinkedModule): string {
    const base = `${this.folder}/${stemOf(module.path)}`;
    let path = `${base}.js`;
    for (let number = 2; this.#takenPaths.has(path); number++) path = `${base}-${String(number)}.js`;
    this.#takenPaths.add(path);
    return path;
  }
}

/** The uses of an imported name, its import aside. */
export function usesOf(
  record: ModuleRecord,
  local: string,
): { start: number; end: number; isShorthand: boolean; isWrite: boolean }[] {
  const imported = record.imports.get(local)!;
  return (record.uses.topLevel.get(local) ?? []).filter(({ start }) => start < imported.start || start >= imported.end);
}

/** Identifies a name within a bundle. */
export const keyOf = ({ module, local }: ModuleName): string => `${String(module.index)} ${local}`;
