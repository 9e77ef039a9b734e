import { depthFirst } from '../../../graph.js';
import type { CommonJsRecord } from './commonjs.js';
import type { ModuleText } from './module-text.js';
import type { RelativeUrl } from './name-uses.js';
import type { ModuleRecord, ModuleRequest } from './record.js';

/** A module without code, such as JSON: its default export is a value. The members of JSON can also be imported by name, as packages do. */
export interface JsonRecord {
  readonly format: 'json';
  readonly from: ModuleText;
  /** The value and its members as expressions, by the names by which they are imported. */
  readonly values: ReadonlyMap<string, string>;
}

/** A style sheet that a module imports for its effect. */
export interface StyleRecord {
  readonly format: 'style';
  readonly from: ModuleText;
}

export type AnyRecord = ModuleRecord | CommonJsRecord | JsonRecord | StyleRecord;

/** A module of a bundle, with the modules that it requests. */
export class LinkedModule {
  /** The module of each request; a text is the specifier of one that is left to the page. */
  readonly targets = new Map<ModuleRequest, LinkedModule | string>();
  /** Calls of `import()` that always fail, because the module is invalid or missing. */
  readonly failing = new Map<ModuleRequest, 'SyntaxError' | 'TypeError'>();
  /** The output paths of relative URLs. */
  readonly urlTargets = new Map<RelativeUrl, string>();
  /** For CommonJS modules: the names that ES modules can import. */
  readonly commonJsNames = new Set<string>();
  /** The number in the order in which modules were found. */
  index: number;
  // They are read when all modules are connected.
  #dependencies: readonly LinkedModule[] | undefined;
  #required: readonly LinkedModule[] | undefined;

  #record: AnyRecord;

  constructor(
    readonly path: string,
    record: AnyRecord,
    index: number,
    /** False if a module is not needed for its effects (`sideEffects` of package.json). */
    readonly hasSideEffects = true,
    /** True if it stands for a global variable, whose members are not known. */
    readonly isExternal = false,
    /** True if Node.js runs it as an ES module, by its extension or package.json. */
    readonly isNodeModule = false,
  ) {
    this.#record = record;
    this.index = index;
  }

  /** Its analysis. */
  get record(): AnyRecord {
    return this.#record;
  }

  /**
   * Takes the analysis of the same module after an edit, which requests the same modules.
   *
   * @param targetOf returns the module of this bundle for one of the other
   */
  take(other: LinkedModule, targetOf: (target: LinkedModule) => LinkedModule): void {
    this.#record = other.record;
    this.targets.clear();
    for (const [request, target] of other.targets)
      this.targets.set(request, typeof target === 'string' ? target : targetOf(target));
    this.failing.clear();
    for (const [request, error] of other.failing) this.failing.set(request, error);
    this.urlTargets.clear();
    for (const [url, path] of other.urlTargets) this.urlTargets.set(url, path);
  }

  /** The module that a request leads to. */
  target(request: ModuleRequest): LinkedModule | string {
    return this.targets.get(request)!;
  }

  /** The modules that are evaluated before this one. */
  get dependencies(): readonly LinkedModule[] {
    return (this.#dependencies ??= this.record.format === 'module' ? this.#modules(this.record.requests) : []);
  }

  /** The modules that it loads by `require`, when its code gets there. */
  get required(): readonly LinkedModule[] {
    return (this.#required ??= this.record.format === 'commonjs' ? this.#modules(this.record.requires) : []);
  }

  /** All modules that it requests, in the order of the text of each kind of request. */
  get requested(): readonly LinkedModule[] {
    const calls = 'dynamicRequests' in this.record ? this.#modules(this.record.dynamicRequests) : [];
    return [...this.dependencies, ...this.required, ...calls];
  }

  /** True if evaluating it may wait for something itself. */
  get hasAwait(): boolean {
    return this.record.format === 'module' && this.record.awaits !== undefined;
  }

  #modules(requests: readonly ModuleRequest[]): LinkedModule[] {
    return [...new Set(requests.map((one) => this.target(one)))].filter((one) => typeof one !== 'string');
  }
}

/**
 * The modules that a module evaluates, itself last, in the order of their evaluation (`InnerModuleEvaluation`; ECMA-262,
 * section 16.2.1.6.1.3.1).
 *
 * @param dependenciesOf the modules that are evaluated before a module
 */
export function evaluationOrder(
  root: LinkedModule,
  dependenciesOf: (module: LinkedModule) => readonly LinkedModule[],
): LinkedModule[] {
  const order: LinkedModule[] = [];
  depthFirst([root], dependenciesOf, { leave: (module) => order.push(module) });
  return order;
}
