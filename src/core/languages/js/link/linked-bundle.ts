import type { SectionBuilder } from '../../source-maps/index.js';
import { Bundle, type Entry } from './bundle.js';
import type { Chunk } from './chunk.js';
import type { AnyRecord, LinkedModule } from './graph.js';
import { shapeOf } from './module-shape.js';
import { ChunkPrinter, type PrintedFile, type ScriptForm } from './print.js';
import type { ModuleRecord, ModuleRequest } from './record.js';
import { UsedCode } from './used-code.js';

/** How modules are linked. */
export interface LinkForm {
  /** The folder of shared files. */
  readonly folder: string;
  /** Whether code that nothing uses is left out. */
  readonly removesUnused: boolean;
  /** The form of a classic script; without it, the files are ES modules. */
  readonly script?: ScriptForm | undefined;
}

/**
 * A bundle and the printers of its files. Where no code is left out, it can be kept: after an edit that changes neither what
 * a module imports and exports nor its top-level names, only the code of that module is printed anew.
 */
export class LinkedBundle {
  readonly bundle: Bundle;
  readonly #printers: ReadonlyMap<Chunk, ChunkPrinter>;
  /** The modules of this bundle for those that it was renewed with. */
  #original: ReadonlyMap<LinkedModule, LinkedModule> = new Map();
  #current: ReadonlyMap<LinkedModule, LinkedModule> = new Map();

  /** @param modules all modules, by a key that each keeps */
  constructor(
    entries: readonly Entry[],
    private readonly modules: ReadonlyMap<string, LinkedModule>,
    { folder, removesUnused, script }: LinkForm,
  ) {
    const used = new UsedCode(
      entries.map(({ module }) => module),
      modules.values(),
      removesUnused,
      script !== undefined,
    );
    const bundle = new Bundle(entries, folder, used, script !== undefined);
    this.bundle = bundle;
    this.#printers = new Map(bundle.graph.chunks.map((chunk) => [chunk, new ChunkPrinter(bundle, chunk, script)]));
  }

  /** The number of its modules. */
  get size(): number {
    return this.modules.size;
  }

  /** Prints the file of a chunk. */
  print(chunk: Chunk, out: SectionBuilder): PrintedFile {
    return this.#printers.get(chunk)!.print(out);
  }

  /** The module that a module of this bundle was last renewed with. */
  current(module: LinkedModule): LinkedModule {
    return this.#current.get(module) ?? module;
  }

  /**
   * Takes the same modules after edits.
   *
   * @returns false if the edits change more than the code of single modules, so that the bundle cannot be used
   */
  renew(modules: ReadonlyMap<string, LinkedModule>): boolean {
    if (modules.size !== this.modules.size) return false;
    const original = new Map<LinkedModule, LinkedModule>();
    for (const [key, module] of modules) {
      const before = this.modules.get(key);
      if (!before) return false;
      original.set(module, before);
    }
    this.#original = original;
    const edited: LinkedModule[] = [];
    for (const [module, before] of original) {
      if (!this.#isLinkedAlike(before, module)) return false;
      if (!isSameAnalysis(before.record, module.record)) edited.push(before);
    }
    this.#current = new Map([...original].map(([module, before]) => [before, module]));
    for (const [module, before] of original) before.take(module, (target) => original.get(target)!);
    const { used } = this.bundle;
    const linked = edited.filter((module) => used.included.has(module));
    for (const module of linked) used.renew(module, module.record as ModuleRecord);
    for (const module of linked) for (const printer of this.#printers.values()) printer.renew(module);
    return true;
  }

  /** Reports whether a module is linked like the one that it was: with the same modules, under the same names. */
  #isLinkedAlike(before: LinkedModule, module: LinkedModule): boolean {
    const isSame =
      before.index === module.index &&
      before.hasSideEffects === module.hasSideEffects &&
      before.isExternal === module.isExternal &&
      before.isNodeModule === module.isNodeModule &&
      before.commonJsNames.size === module.commonJsNames.size &&
      [...before.commonJsNames].every((name) => module.commonJsNames.has(name));
    const [old, record] = [before.record, module.record];
    if (!isSame) return false;
    if (!isSameAnalysis(old, record)) {
      if (old.format !== 'module' || record.format !== 'module' || shapeOf(old) !== shapeOf(record)) return false;
      if (this.#hasOtherNames(before, old, record)) return false;
    }
    const [requests, others] = [requestsOf(old), requestsOf(record)];
    const [urls, otherUrls] = [urlsOf(old), urlsOf(record)];
    return (
      requests.every((one, at) => this.#hasSameTarget(before, one, module, others[at]!)) &&
      urls.every((one, at) => before.urlTargets.get(one) === module.urlTargets.get(otherUrls[at]!))
    );
  }

  #hasSameTarget(before: LinkedModule, old: ModuleRequest, module: LinkedModule, request: ModuleRequest): boolean {
    const [was, is] = [before.targets.get(old), module.targets.get(request)];
    const isSame = typeof is === 'object' ? this.#original.get(is) === was : is === was;
    return isSame && before.failing.get(old) === module.failing.get(request);
  }

  /** Reports whether a module uses other names in nested scopes, or other globals, that names in its file depend on. */
  #hasOtherNames(module: LinkedModule, old: ModuleRecord, record: ModuleRecord): boolean {
    const chunk = this.bundle.graph.evaluatedIn.get(module);
    const names = chunk && this.bundle.namesOf(chunk);
    const differs = (one: Iterable<string>, other: { has(name: string): boolean }): boolean =>
      [...one].some((name) => !other.has(name) && names?.dependsOn(name));
    const [a, b] = [old.uses, record.uses];
    return (
      differs(a.nested, b.nested) ||
      differs(b.nested, a.nested) ||
      differs(a.globals.keys(), b.globals) ||
      differs(b.globals.keys(), a.globals)
    );
  }
}

/** Reports whether two analyses are of the same text. */
function isSameAnalysis(one: AnyRecord, other: AnyRecord): boolean {
  if (one.format === 'module') return other.format === 'module' && one.statements === other.statements;
  if (one.format === 'commonjs') return other.format === 'commonjs' && one.requires === other.requires;
  if (one.format === 'json') return other.format === 'json' && one.values === other.values;
  return other.format === 'style';
}

/** The requests of a module, in a fixed order. */
function requestsOf(record: AnyRecord): readonly ModuleRequest[] {
  if (record.format === 'module') return [...record.requests, ...record.dynamicRequests];
  return record.format === 'commonjs' ? [...record.requires, ...record.dynamicRequests] : [];
}

const urlsOf = (record: AnyRecord): ModuleRecord['uses']['urls'] => ('uses' in record ? record.uses.urls : []);
