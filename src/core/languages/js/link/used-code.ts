import { namespaceNames, resolveExport, resolveUse } from './exports.js';
import { cyclesOf } from '../../../graph.js';
import type { LinkedModule } from './graph.js';
import type { NameUse } from './name-uses.js';
import type { ImportCall, ModuleRecord } from './record.js';
import type { ResolvedExport } from './exports.js';
import { namesByStatement, statementAt, type Statement } from './statements.js';

/** A use of an imported name, with what it stands for. */
export interface ImportUse {
  readonly local: string;
  readonly use: NameUse;
  /** The end of what is replaced: of the name, or of a member access of a namespace. */
  readonly end: number;
  readonly resolved: ResolvedExport;
}

/** The parts of a module. */
interface Parts {
  readonly live: Set<Statement>;
  readonly declaredBy: ReadonlyMap<string, readonly Statement[]>;
  readonly namesIn: ReadonlyMap<Statement, readonly (readonly [local: string, use: NameUse])[]>;
}

/**
 * The code of a bundle that is needed: statements with effects, and those whose names such statements use. Modules of
 * packages that declare to have no side effects (`sideEffects` of package.json) are only evaluated if one of their exports
 * is used.
 */
export class UsedCode {
  readonly included = new Set<LinkedModule>();
  /** The modules whose namespaces are used as values. */
  readonly namespaces = new Set<LinkedModule>();
  readonly #parts = new Map<LinkedModule, Parts>();
  readonly #imports = new Map<LinkedModule, ImportUse[]>();
  readonly #loaded = new Map<LinkedModule, Set<LinkedModule>>();
  /** The exports that `import()` needs of a module; undefined for all. */
  readonly #wanted = new Map<LinkedModule, Set<string> | undefined>();
  readonly #dependencies = new Map<LinkedModule, readonly LinkedModule[]>();
  readonly #pending: (() => void)[] = [];
  readonly #cyclic: ReadonlyMap<LinkedModule, unknown>;

  /**
   * @param removesUnused whether code that nothing uses is left out
   * @param isScript whether it becomes a classic script, which imports no files
   */
  constructor(
    entries: readonly LinkedModule[],
    modules: Iterable<LinkedModule>,
    private readonly removesUnused: boolean,
    private readonly isScript: boolean,
  ) {
    this.#cyclic = cyclesOf(modules, (module) => module.dependencies);
    for (const module of entries) {
      this.#include(module);
      this.#useNamespace(module);
      this.#run();
    }
  }

  /** Takes the new uses of imports of a module that was edited and has the same shape as before. */
  renew(module: LinkedModule, record: ModuleRecord): void {
    this.#parts.delete(module);
    this.#imports.delete(module);
    for (const one of record.statements) this.#keep(module, record, one);
    this.#run();
  }

  /** Reports whether a statement is needed. */
  isLive(module: LinkedModule, statement: Statement): boolean {
    return this.#parts.get(module)?.live.has(statement) ?? false;
  }

  /** Reports whether evaluating a module has no effect, and no other module can change its result. */
  isInert(module: LinkedModule): boolean {
    const { record } = module;
    if (record.format === 'json') return true;
    if (record.format !== 'module' || record.awaits || this.#cyclic.has(module)) return false;
    return record.statements.every(
      (one) => !this.isLive(module, one) || (one.isPure && !this.#hasEffect(module, record, one)),
    );
  }

  /** Reports whether the code at an offset is needed. */
  isLiveAt(module: LinkedModule, offset: number): boolean {
    const { record } = module;
    const statement = record.format === 'module' ? statementAt(record.statements, offset) : undefined;
    return statement !== undefined && this.isLive(module, statement);
  }

  /** Reports whether the declaration of a name is needed. */
  isDeclared(module: LinkedModule, local: string): boolean {
    const parts = this.#parts.get(module);
    return parts?.declaredBy.get(local)?.some((one) => parts.live.has(one)) ?? false;
  }

  /** The uses of imports in the statements that are needed. */
  importsOf(module: LinkedModule): readonly ImportUse[] {
    return this.#imports.get(module) ?? [];
  }

  /** The modules that `import()` loads. */
  loadedBy(module: LinkedModule): readonly LinkedModule[] {
    return [...(this.#loaded.get(module) ?? [])];
  }

  /** The names of a module's file: all exports, or those that calls of `import()` need. */
  exportsOf(module: LinkedModule): readonly string[] {
    const all = namespaceNames(module);
    if (this.namespaces.has(module)) return all;
    const wanted = this.#wanted.get(module);
    return wanted ? all.filter((name) => wanted.has(name)) : all;
  }

  /** The modules that are evaluated before a module; those without any needed code are replaced by their own. */
  dependenciesOf(module: LinkedModule): readonly LinkedModule[] {
    const known = this.#dependencies.get(module);
    if (known) return known;
    const found = new Set<LinkedModule>();
    const skipped = new Set<LinkedModule>();
    const add = (one: LinkedModule): void => {
      if (this.included.has(one)) found.add(one);
      else if (!skipped.has(one)) {
        skipped.add(one);
        one.dependencies.forEach(add);
      }
    };
    module.dependencies.forEach(add);
    const dependencies = [...found];
    this.#dependencies.set(module, dependencies);
    return dependencies;
  }

  /** Long chains of modules are followed without recursion. */
  #run(): void {
    for (let next = this.#pending.pop(); next; next = this.#pending.pop()) next();
  }

  #include(module: LinkedModule): void {
    if (this.included.has(module)) return;
    this.included.add(module);
    this.#pending.push(() => {
      const { record } = module;
      if (record.format === 'module') {
        for (const one of record.statements)
          if (!this.removesUnused || this.#hasEffect(module, record, one)) this.#keep(module, record, one);
        // Without statements, calls of `import()` are nowhere.
        for (const one of module.dependencies) if (one.hasSideEffects || !this.removesUnused) this.#include(one);
      } else if (record.format === 'commonjs') {
        for (const one of module.required) this.#include(one);
        for (const one of record.dynamicRequests) this.#load(module, one);
      }
    });
  }

  #hasEffect(module: LinkedModule, record: ModuleRecord, statement: Statement): boolean {
    if (!statement.isPure) return true;
    if (statement.changes.length > 0) return false;
    if (statement.superclass !== undefined && !this.#isClass(module, record, statement.superclass)) return true;
    return statement.readsImports && this.#cyclic.has(module);
  }

  /** Reports whether a name stands for a class or function, which can be extended without effect. */
  #isClass(module: LinkedModule, record: ModuleRecord, local: string): boolean {
    if (record.classes.has(local) || record.functions.has(local)) return true;
    const imported = record.imports.get(local);
    const target = imported && module.target(imported.request);
    if (!target || typeof target === 'string') return false;
    const resolved = resolveExport(target, imported.name);
    if (typeof resolved === 'string' || !('local' in resolved)) return false;
    const { record: other } = resolved.module;
    return other.format === 'module' && (other.classes.has(resolved.local) || other.functions.has(resolved.local));
  }

  #keep(module: LinkedModule, record: ModuleRecord, statement: Statement): void {
    const { live, namesIn } = this.#partsOf(module, record);
    if (live.has(statement)) return;
    live.add(statement);
    for (const name of [...statement.declares, ...statement.changes]) this.#use(module, name);
    for (const [local, use] of namesIn.get(statement) ?? [])
      if (record.imports.has(local)) this.#useImport(module, record, local, use);
      else this.#use(module, local);
    for (const one of record.dynamicRequests)
      if (one.start >= statement.start && one.end <= statement.end) this.#load(module, one);
  }

  #use(module: LinkedModule, local: string): void {
    this.#include(module);
    const { record } = module;
    if (record.format !== 'module' || !this.removesUnused) return;
    this.#pending.push(() => {
      for (const one of this.#partsOf(module, record).declaredBy.get(local) ?? []) this.#keep(module, record, one);
    });
  }

  #useImport(module: LinkedModule, record: ModuleRecord, local: string, use: NameUse): void {
    const imported = record.imports.get(local)!;
    const target = module.target(imported.request);
    const found = resolveUse(target, imported.name, module, use);
    if (!found) throw new Error(`unresolved import of ${imported.name}`);
    const list = this.#imports.get(module) ?? [];
    this.#imports.set(module, list);
    list.push({ local, use, ...found });
    this.#useExport(found.resolved);
    // An import cannot be assigned to, unlike the name that it stands for.
    if (use.isWrite && typeof target !== 'string' && !this.isScript) this.#useNamespace(target);
  }

  #useExport(resolved: ResolvedExport): void {
    if ('external' in resolved) return;
    if ('namespace' in resolved) this.#useNamespace(resolved.module);
    else this.#use(resolved.module, resolved.local);
  }

  #useNamespace(module: LinkedModule): void {
    if (this.namespaces.has(module)) return;
    this.namespaces.add(module);
    this.#include(module);
    this.#useExports(module, namespaceNames(module));
  }

  #useExports(module: LinkedModule, names: readonly string[]): void {
    for (const name of names) {
      const resolved = resolveExport(module, name);
      if (typeof resolved !== 'string') this.#useExport(resolved);
    }
  }

  #load(module: LinkedModule, request: ImportCall): void {
    const target = module.target(request);
    if (typeof target === 'string') return;
    this.#loaded.set(module, (this.#loaded.get(module) ?? new Set()).add(target));
    this.#include(target);
    const { members } = request;
    const wanted = this.#wanted.has(target) ? this.#wanted.get(target) : new Set<string>();
    if (!members || !wanted || !this.removesUnused) {
      this.#wanted.set(target, undefined);
      this.#useExports(target, namespaceNames(target));
      return;
    }
    // A namespace with an export `then` is called like a promise.
    for (const name of [...members, 'then']) wanted.add(name);
    this.#wanted.set(target, wanted);
    this.#useExports(target, [...wanted]);
  }

  #partsOf(module: LinkedModule, record: ModuleRecord): Parts {
    const known = this.#parts.get(module);
    if (known) return known;
    const parts: Parts = { live: new Set(), ...indexOf(record) };
    this.#parts.set(module, parts);
    return parts;
  }
}

type Index = Omit<Parts, 'live'>;

/** The statements of modules by name, which are the same whenever these are linked. */
const indexes = new WeakMap<ModuleRecord['statements'], Index>();

function indexOf(record: ModuleRecord): Index {
  const known = indexes.get(record.statements);
  if (known) return known;
  const declaredBy = new Map<string, Statement[]>();
  for (const one of record.statements)
    for (const name of [...one.declares, ...one.changes]) {
      const list = declaredBy.get(name);
      if (list) list.push(one);
      else declaredBy.set(name, [one]);
    }
  const namesIn = namesByStatement(record.statements, record.imports, record.uses);
  const index = { declaredBy, namesIn };
  indexes.set(record.statements, index);
  return index;
}
