import { reserved } from '../scopes/short-names.js';
import type { Chunk } from './chunk.js';
import type { LinkedModule } from './graph.js';
import { defaultName } from './record.js';

/** A name that a module declares, and that others may import. */
export interface ModuleName {
  readonly module: LinkedModule;
  readonly local: string;
}

/** The local name of the namespace of a module, where it is an object in its chunk. */
export const namespaceName = '*namespace*';

/** Assigns names to everything that the modules of a chunk declare or import, so that they can share a scope. */
export class ChunkNames {
  readonly #taken = new Set<string>();
  readonly #nested = new Set<string>();
  /** Every name that was considered. */
  readonly #considered = new Set<string>();
  readonly #names = new Map<LinkedModule, Map<string, string>>();

  /**
   * @param importers the other modules of the chunk that use a name
   */
  constructor(
    chunk: Chunk,
    importers: (name: ModuleName) => readonly LinkedModule[],
    needed: (module: LinkedModule) => readonly string[],
    isDeclared: (name: ModuleName) => boolean,
    hasNamespace: (module: LinkedModule) => boolean,
  ) {
    for (const { record } of [...chunk.definitions, ...chunk.modules]) {
      if (record.format === 'json' || record.format === 'style') continue;
      for (const name of record.uses.globals.keys()) this.#taken.add(name);
      for (const name of record.uses.nested) this.#nested.add(name);
      // Inside a class, its original name is its own.
      if (record.format === 'module') for (const name of record.classes.keys()) this.#nested.add(name);
      // The code of CommonJS modules is in functions.
      if (record.format === 'commonjs') for (const name of record.uses.topLevel.keys()) this.#nested.add(name);
    }
    for (const name of ownGlobals) this.#taken.add(name);
    for (const module of new Set([...chunk.definitions, ...chunk.modules])) {
      const { record, path } = module;
      const names = new Map<string, string>();
      this.#names.set(module, names);
      if (record.format === 'module') {
        for (const local of record.uses.topLevel.keys())
          if (!record.imports.has(local) && isDeclared({ module, local }))
            names.set(local, this.#nameFor(local, importers({ module, local })));
        if ([...record.exports.values()].some((one) => 'local' in one && one.local === defaultName))
          names.set(defaultName, this.unique(`${stemOf(path)}_default`));
      } else if (record.format === 'json')
        for (const local of needed(module))
          names.set(local, this.unique(`${stemOf(path)}_${local === 'default' ? 'json' : local}`));
      else {
        if (chunk.definitions.includes(module)) names.set('*', this.unique(`require_${stemOf(path)}`));
        if (chunk.modules.includes(module))
          for (const local of needed(module)) names.set(local, this.unique(`${stemOf(path)}_${local}`));
      }
      if (hasNamespace(module)) names.set(namespaceName, this.unique(`${stemOf(path)}_namespace`));
    }
  }

  /** The name of something that a module of the chunk declares. */
  of({ module, local }: ModuleName): string {
    return this.#names.get(module)!.get(local)!;
  }

  /** The name of something that a module declares; undefined if it is not needed. */
  find({ module, local }: ModuleName): string | undefined {
    return this.#names.get(module)?.get(local);
  }

  /** Reports whether it matters that a module of the chunk uses a name, or no longer does. */
  dependsOn(name: string): boolean {
    return this.#considered.has(name);
  }

  /** A name that nothing in the chunk has, like another one. */
  unique(like: string): string {
    const base = like.replace(/[^\w$]+/g, '_').replace(/^(?=\d)/, '_');
    const isFree = (name: string): boolean => {
      this.#considered.add(name);
      return !this.#taken.has(name) && !this.#nested.has(name) && !reserved.has(name);
    };
    let name = base;
    for (let number = 1; !isFree(name); number++) name = `${base}_${String(number)}`;
    this.#taken.add(name);
    return name;
  }

  /** The original name where it is possible: the module's own scopes do not hide it, unlike those of others. */
  #nameFor(name: string, importers: readonly LinkedModule[]): string {
    this.#considered.add(name);
    const isHidden = importers.some(
      ({ record }) => record.format === 'module' && (record.uses.nested.has(name) || record.classes.has(name)),
    );
    if (this.#taken.has(name) || isHidden) return this.unique(name);
    this.#taken.add(name);
    return name;
  }
}

/** The globals and parameters that the code between modules uses. */
const ownGlobals = [
  'Error',
  'JSON',
  'Object',
  'Promise',
  'Proxy',
  'Symbol',
  'document',
  'location',
  'SyntaxError',
  'TypeError',
  'exports',
  'globalThis',
  'module',
  'require',
];

/** The part of a path that names are made from. */
export function stemOf(path: string): string {
  const parts = path.replace(/\.[^./]+$/, '').split('/');
  const last = parts.pop()!;
  return last === 'index' ? (parts.pop() ?? last) : last;
}
