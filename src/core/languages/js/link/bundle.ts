import type { Chunk } from './chunk.js';
import { divide, inOneFile, type ChunkGraph } from './chunks.js';
import { resolveExport, type ResolvedExport } from './exports.js';
import type { LinkedModule } from './graph.js';
import { ChunkNames, namespaceName, stemOf, type ModuleName } from './names.js';
import type { ImportUse, UsedCode } from './used-code.js';

/** A file with exactly the exports of a module: an entry point, or one whose namespace is used as a value. */
export interface ModuleFile {
  readonly module: LinkedModule;
  readonly path: string;
  readonly exports: Map<string, ResolvedExport>;
  /** The files that it exports names from, in cycles of chunks; other names are exported from the chunks that declare them. */
  readonly via: Map<string, Hop>;
}

/** A step on the way from an import to the declaration: a name of the file of a module. */
export interface Hop {
  readonly module: LinkedModule;
  readonly name: string;
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
  /** Modules that `import()` loads. */
  readonly #called: ReadonlySet<LinkedModule>;
  /** Entry points, and modules that `import()` loads. */
  readonly #loaded: ReadonlySet<LinkedModule>;
  /** Modules whose namespaces are exports of modules in cycles of chunks. */
  readonly #passed = new Set<LinkedModule>();
  /** The modules whose files have all exports that anything may need. */
  readonly #isComplete = new Set<LinkedModule>();
  /** In one file, the variables that change and that another part of it uses, which would not see that. */
  readonly unsharable: { readonly name: ModuleName; readonly user: LinkedModule }[] = [];
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
    private readonly isOneFile = false,
  ) {
    // Files with the name of an entry point would be taken for it.
    this.#takenPaths = new Set(entries.flatMap(({ path }) => [path, `${folder}/${stemOf(path)}.js`]));
    const modules = entries.map(({ module }) => module);
    this.graph = isOneFile ? inOneFile(modules[0]!, used) : divide(modules, used);
    this.#called = new Set([...used.included].flatMap((one) => used.loadedBy(one)));
    this.#loaded = new Set([...entries.map(({ module }) => module), ...this.#called]);
    for (const module of used.included)
      if (this.graph.isInSplitCycle(module))
        for (const one of this.#exportsOf(module).values()) if ('namespace' in one) this.#passed.add(one.module);
    for (const { module } of entries) this.#addFile(module);
    const chunks = [...this.graph.chunks, ...this.graph.lazy];
    for (const chunk of chunks)
      for (const module of new Set([...chunk.definitions, ...chunk.modules])) this.#collect(module);
    for (const file of this.moduleFiles.values())
      for (const one of file.exports.values()) this.#need(one, file.module, undefined);
    this.#placeFiles();
    // The parts of one file see each other's names.
    const whole: Chunk = {
      modules: chunks.flatMap((chunk) => chunk.modules),
      definitions: chunks.flatMap((chunk) => chunk.definitions),
    };
    const shared = isOneFile ? this.#namesFor(whole, () => true) : undefined;
    for (const chunk of chunks)
      this.#names.set(chunk, shared ?? this.#namesFor(chunk, (user) => this.#userChunk(user) === chunk));
  }

  /** @param isUser reports whether the code of a module lies in the chunk */
  #namesFor(chunk: Chunk, isUser: (module: LinkedModule) => boolean): ChunkNames {
    return new ChunkNames(
      chunk,
      (name) => [...(this.#users.get(keyOf(name)) ?? [])].filter(isUser),
      (module) => this.neededOf(module),
      ({ module, local }) => this.used.isDeclared(module, local),
      (module) => this.#inline.has(module),
    );
  }

  /**
   * Reports whether the namespace of a module is an object in its chunk. Others are those of files: where `import()` or the
   * page can see them, and where modules in cycles of chunks have them or pass them on, since these are used before their
   * chunk is evaluated.
   */
  hasInlineNamespace(module: LinkedModule): boolean {
    const isObject = !this.#loaded.has(module) && !this.graph.isInSplitCycle(module) && !this.#passed.has(module);
    return this.isOneFile || isObject;
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
    return (isDefinition && this.graph.definedIn.get(module)) || this.graph.evaluatedIn.get(module)!;
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
    for (const one of this.used.loadedBy(module))
      if (this.isOneFile) this.#need({ module: one, namespace: true }, module, undefined);
      else this.#addFile(one);
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
    for (const one of this.used.importsOf(module)) {
      const { resolved, use, local } = one;
      const hop = this.hopOf(module, one);
      if (hop) this.#needThrough(hop);
      else this.#need(resolved, module, this.#userChunk(module));
      if (!use.isWrite || record.format !== 'module') continue;
      const target = module.target(record.imports.get(local)!.request);
      if (typeof target !== 'string') this.#addFile(target);
    }
  }

  /**
   * The first step of an import in a cycle of chunks, if that is in the cycle as well. To import from the chunk that declares
   * the name would evaluate it too early: the modules on the way may not be evaluated yet.
   */
  hopOf(module: LinkedModule, { local, use, resolved }: ImportUse): (Hop & { readonly end: number }) | undefined {
    const { record } = module;
    const imported = record.format === 'module' ? record.imports.get(local) : undefined;
    const target = imported && module.target(imported.request);
    if (!target || typeof target === 'string' || !this.#isCycle(module, target)) return undefined;
    const [member] = use.members;
    const isMember = imported.name === '*' && member !== undefined && !use.isWrite;
    const name = isMember ? member.name : imported.name;
    if (name === '*') return undefined;
    const first = resolveExport(target, name);
    // A member of a namespace that is itself an export is looked up directly.
    if (typeof first === 'string' || ('namespace' in first && !('namespace' in resolved))) return undefined;
    if (isMember && 'namespace' in resolved && !('namespace' in first)) return undefined;
    return { module: target, name, end: isMember ? member.end : use.end };
  }

  #isCycle(module: LinkedModule, target: LinkedModule): boolean {
    return this.graph.isInSplitCycle(module) && this.graph.isInSplitCycle(target);
  }

  /** Lets the file of a module in a cycle export a name. */
  #needThrough({ module, name }: Hop): void {
    const file = this.moduleFiles.get(module) ?? this.#emptyFile(module);
    if (!file.exports.has(name)) this.#exportName(file, name, resolveExport(module, name) as ResolvedExport);
  }

  #exportName(file: ModuleFile, name: string, resolved: ResolvedExport): void {
    const { module } = file;
    file.exports.set(name, resolved);
    const hop = this.graph.isInSplitCycle(module) ? exportHop(module, name) : undefined;
    if (hop && hop.name !== '*' && this.#isCycle(module, hop.module)) {
      file.via.set(name, hop);
      this.#needThrough(hop);
    } else if ('namespace' in resolved && !this.nameOf(resolved)) this.#addFile(resolved.module);
  }

  #emptyFile(module: LinkedModule): ModuleFile {
    // Entry points may be reached from others first.
    const path = this.entries.find((one) => one.module === module)?.path ?? this.#freePath(module);
    const file = { module, path, exports: new Map(), via: new Map() };
    this.moduleFiles.set(module, file);
    return file;
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
    if (this.isOneFile && chunk !== from && chunk !== this.graph.chunks[0] && isVariable(name))
      this.unsharable.push({ name, user });
    const key = keyOf(name);
    this.#users.set(key, (this.#users.get(key) ?? new Set()).add(user));
    if (module.record.format !== 'module' && local !== '*' && local !== namespaceName)
      this.#needed.set(module, (this.#needed.get(module) ?? new Set()).add(local));
    if (chunk !== from && from !== undefined) this.#export(chunk, name);
    // In cycles of chunks, all names are exported as the module does: a file beside it would be evaluated too early.
    const exported = this.graph.isInSplitCycle(module) ? publicName(name) : undefined;
    if (exported !== undefined) this.#needThrough({ module, name: exported });
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
    // The parts of one file see each other's names.
    if (this.isOneFile) return;
    this.#exported.set(chunk, (this.#exported.get(chunk) ?? new Map<string, ModuleName>()).set(keyOf(name), name));
  }

  #addFile(module: LinkedModule): void {
    if (this.#isComplete.has(module)) return;
    this.#isComplete.add(module);
    const file = this.moduleFiles.get(module) ?? this.#emptyFile(module);
    const exports = this.#exportsOf(module);
    for (const name of file.exports.keys()) if (!exports.has(name)) exports.set(name, file.exports.get(name)!);
    file.exports.clear();
    // In the order of the names.
    for (const [name, resolved] of [...exports].sort(([a], [b]) => (a < b ? -1 : 1)))
      this.#exportName(file, name, resolved);
  }

  #exportsOf(module: LinkedModule): Map<string, ResolvedExport> {
    return new Map(this.used.exportsOf(module).map((name) => [name, resolveExport(module, name) as ResolvedExport]));
  }

  /** Lets chunks be the files of modules where their exports are the same, and exports what the other files need. */
  #placeFiles(): void {
    const seen = this.#seenNamespaces();
    for (const file of this.moduleFiles.values()) {
      const chunk = this.chunkOf(file.module);
      if (this.#merged.has(chunk)) continue;
      const own = this.#exportsByName(file);
      const others = [...this.moduleFiles.values()].filter((other) => other !== file);
      const exported = others.flatMap((other) => directExports(other).flatMap((one) => this.nameOf(one) ?? []));
      const needed = new Set(this.#exported.get(chunk)?.keys());
      for (const one of exported) if (this.chunkOfName(one) === chunk) needed.add(keyOf(one));
      const near = new Set(chunk.modules.flatMap((module) => module.dependencies.map((one) => this.chunkOf(one))));
      // A file that it does not import otherwise would be evaluated too early.
      const isNear = directExports(file).every((one) => {
        if ('external' in one) return true;
        const name = this.nameOf(one);
        const other = name ? this.chunkOfName(name) : this.chunkOf(one.module);
        return other === chunk || near.has(other);
      });
      // An entry point without exports whose namespace no module sees may export what others need.
      const isEntry = this.entries.some(({ module }) => module === file.module);
      const isOpen = file.exports.size === 0 && isEntry && !seen.has(file.module);
      const isFitting = isNear && [...needed].every((key) => own.has(key));
      if (isOpen || isFitting || this.graph.isInSplitCycle(file.module)) this.#merged.set(chunk, file);
    }
    for (const file of this.separateFiles) for (const one of directExports(file)) this.#exportFrom(undefined, one);
    for (const [chunk, file] of this.#merged) for (const one of directExports(file)) this.#exportFrom(chunk, one);
    for (const chunk of this.graph.chunks)
      if (!this.#merged.has(chunk))
        this.#paths.set(chunk, this.#freePath((chunk.modules.at(-1) ?? chunk.definitions.at(-1))!));
  }

  /** Modules whose namespaces are values that modules of the bundle see. */
  #seenNamespaces(): ReadonlySet<LinkedModule> {
    const exported = [...this.moduleFiles.values()].flatMap(({ exports }) => [...exports.values()]);
    const used = [...this.used.included].flatMap((one) => this.used.importsOf(one).map(({ resolved }) => resolved));
    const values = [...exported, ...used].flatMap((one) => ('namespace' in one ? one.module : []));
    return new Set([...this.#called, ...values]);
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

/** Reports whether the value of a name may change after its module was evaluated. */
const isVariable = ({ module: { record }, local }: ModuleName): boolean =>
  record.format === 'module' && (record.uses.topLevel.get(local) ?? []).some(({ isWrite }) => isWrite);

/** A name by which a module exports what it declares. */
function publicName({ module: { record }, local }: ModuleName): string | undefined {
  if (record.format !== 'module') return undefined;
  for (const [name, one] of record.exports) if ('local' in one && one.local === local) return name;
  return undefined;
}

/** The exports of a file that are not those of another one. */
const directExports = ({ exports, via }: ModuleFile): ResolvedExport[] =>
  [...exports].flatMap(([name, one]) => (via.has(name) ? [] : [one]));

/**
 * The module that a module exports a name from, and the name there, on the shortest way to the declaration, so that these
 * steps never lead in a circle; undefined for its own.
 */
function exportHop(module: LinkedModule, name: string): Hop | undefined {
  const seen = new Map<LinkedModule, Set<string>>();
  const ways: { readonly at: Hop; readonly first: Hop | undefined }[] = [{ at: { module, name }, first: undefined }];
  for (const { at, first } of ways) {
    const names = seen.get(at.module) ?? new Set();
    if (names.has(at.name)) continue;
    seen.set(at.module, names.add(at.name));
    const next = hopsOf(at);
    if (next === undefined) return first;
    for (const hop of next) ways.push({ at: hop, first: first ?? hop });
  }
  return undefined;
}

/** The modules from which a name is exported again; undefined where it is declared. */
function hopsOf({ module, name }: Hop): Hop[] | undefined {
  const { record } = module;
  if (record.format !== 'module' || name === '*') return undefined;
  const own = record.exports.get(name);
  if (own && 'local' in own) return undefined;
  const targets = own ? [module.target(own.request)] : record.stars.map((star) => module.target(star));
  const wanted = own?.name ?? name;
  // A specifier that is left to the page has all names.
  if (own && typeof targets[0] === 'string') return undefined;
  return targets.flatMap((target) =>
    // Of several `export *`, only some have the name.
    typeof target === 'string' || (!own && typeof resolveExport(target, wanted) === 'string')
      ? []
      : [{ module: target, name: wanted }],
  );
}

/** Identifies a name within a bundle. */
export const keyOf = ({ module, local }: ModuleName): string => `${String(module.index)} ${local}`;
