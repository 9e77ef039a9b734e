import type { CopiedText } from '../../source-maps/index.js';
import type { CommonJsRecord } from './commonjs.js';
import type { ModuleRecord, ModuleRequest } from './record.js';

/** A JSON module: its default export is the parsed value. */
export interface JsonRecord {
  readonly format: 'json';
  readonly from: CopiedText;
  /** The value as an expression. */
  readonly expression: string;
}

/** A module of a bundle, with the modules that it requests. */
export class LinkedModule {
  /** The module of each request; a text is the specifier of one that is left to the page. */
  readonly targets = new Map<ModuleRequest, LinkedModule | string>();
  /** For CommonJS modules: the names that ES modules can import. */
  readonly commonJsNames = new Set<string>();
  /** The number in the order in which modules were found. */
  index: number;

  constructor(
    readonly path: string,
    readonly record: ModuleRecord | CommonJsRecord | JsonRecord,
    index: number,
  ) {
    this.index = index;
  }

  /** The module that a request leads to. */
  target(request: ModuleRequest): LinkedModule | string {
    return this.targets.get(request)!;
  }

  /** The modules that are evaluated before this one. */
  get dependencies(): LinkedModule[] {
    return this.record.format === 'module' ? this.#modules(this.record.requests) : [];
  }

  /** The modules that it loads by `require`, when its code gets there. */
  get required(): LinkedModule[] {
    return this.record.format === 'commonjs' ? this.#modules(this.record.requires) : [];
  }

  /** The modules that it loads by `import()`. */
  get loaded(): LinkedModule[] {
    return this.record.format === 'json' ? [] : this.#modules(this.record.dynamicRequests);
  }

  /** True if evaluating it may wait for something itself. */
  get hasAwait(): boolean {
    return this.record.format === 'module' && this.record.hasAwait;
  }

  #modules(requests: readonly ModuleRequest[]): LinkedModule[] {
    return [...new Set(requests.map((one) => this.target(one)))].filter((one) => typeof one !== 'string');
  }
}

/**
 * The modules that a module evaluates, itself last, in the order of their evaluation (`InnerModuleEvaluation`; ECMA-262,
 * section 16.2.1.6.1.3.1).
 */
export function evaluationOrder(root: LinkedModule): LinkedModule[] {
  const order: LinkedModule[] = [];
  const seen = new Set<LinkedModule>();
  const visit = (module: LinkedModule): void => {
    if (seen.has(module)) return;
    seen.add(module);
    for (const one of module.dependencies) visit(one);
    order.push(module);
  };
  visit(root);
  return order;
}
