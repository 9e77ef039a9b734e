import { posix } from 'node:path';
import { isBuiltin } from 'node:module';
import { copiedText, textOf, type Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { diagnostic, DiagnosticError, fail, type Diagnostic } from '../../diagnostics/index.js';
import { extensionOf, formatOf, kindOf } from '../../languages/formats.js';
import { analyseCommonJs, sloppySyntaxIn, type CommonJsRecord } from '../../languages/js/link/commonjs.js';
import { LinkedModule, type JsonRecord } from '../../languages/js/link/graph.js';
import { removeDeadBranches } from '../../languages/js/link/dead-branches.js';
import { analyseModule, type ModuleRecord, type ModuleRequest } from '../../languages/js/link/record.js';
import type { CopiedText } from '../../languages/source-maps/index.js';
import { parseScript } from '../../languages/js/parse.js';
import { PackageFacts } from './package-facts.js';
import { explained } from './parse.js';

type AnyRecord = ModuleRecord | CommonJsRecord | JsonRecord;

/** A request with the file that it resolves to. */
interface ResolvedRequest {
  readonly module: LinkedModule;
  readonly request: ModuleRequest;
  readonly path: string;
}

/** Loads the modules that entry points reach by their imports. */
export class ModuleLoader {
  readonly modules = new Map<string, LinkedModule>();
  readonly #assets = new Map<LinkedModule, Asset>();
  readonly #started = new Set<string>();
  /** The errors of invalid modules, by path, until they are reported. */
  readonly #errors = new Map<string, readonly Diagnostic[]>();
  readonly #requests: ResolvedRequest[] = [];
  /** Calls of `import()` that always fail, because the module is invalid. */
  readonly failing = new Map<ModuleRequest, 'SyntaxError' | 'TypeError'>();
  hasErrors = false;

  readonly #packages: PackageFacts;

  /** @param removesUnused whether code without use is left out */
  constructor(
    private readonly context: StepContext,
    private readonly removesUnused: boolean,
  ) {
    this.#packages = new PackageFacts(context);
  }

  /** Loads entry points and all modules that they reach; undefined if there are errors. */
  async load(entries: readonly Asset[]): Promise<readonly LinkedModule[] | undefined> {
    const modules = entries.flatMap((asset) => {
      const module = this.#add(sourceOf(asset), asset);
      if (!module) this.#report(sourceOf(asset));
      return module ?? [];
    });
    await Promise.all(modules.map((module) => this.#follow(module)));
    for (const request of this.#requests) this.#connect(request);
    if (this.hasErrors) return undefined;
    this.#number(modules);
    for (const module of this.modules.values()) this.#nameCommonJs(module, new Set());
    return modules;
  }

  /** The asset of a module. */
  assetOf(module: LinkedModule): Asset {
    return this.#assets.get(module)!;
  }

  /** Reports an error, so that nothing is linked. */
  fail(problem: Diagnostic): void {
    this.context.report(problem);
    this.hasErrors = true;
  }

  /** The place of a range of a module's text. */
  place(module: LinkedModule, start: number, end: number): ReturnType<StepContext['place']> {
    return this.context.place(this.assetOf(module), module.record.from.text, start, end);
  }

  /** Analyses a module; undefined if it is invalid. */
  #add(path: string, asset: Asset): LinkedModule | undefined {
    try {
      const record = this.#recordOf(path, asset);
      const module = new LinkedModule(path, record, this.modules.size, !this.removesUnused || this.#packages.hasSideEffects(path));
      this.modules.set(path, module);
      this.#assets.set(module, asset);
      return module;
    } catch (error) {
      if (!(error instanceof DiagnosticError)) throw error;
      this.#errors.set(path, error.diagnostics);
      return undefined;
    }
  }

  /** Loads a module and those that it requests, once. */
  async #load(path: string): Promise<void> {
    this.#started.add(path);
    const asset = await this.context.load(path);
    const module = asset && this.#add(path, asset);
    if (module) await this.#follow(module);
  }

  async #follow(module: LinkedModule): Promise<void> {
    const { record } = module;
    if (record.format === 'json') return;
    const requests = record.format === 'module' ? record.requests : record.requires;
    const calls = new Set<ModuleRequest>(record.dynamicRequests);
    const loads = [...requests, ...calls].map((request) => ({ request, path: this.#resolve(module, request, calls) }));
    const started: Promise<void>[] = [];
    for (const { request, path } of loads)
      if (path === undefined) module.targets.set(request, request.specifier);
      else {
        this.#requests.push({ module, request, path });
        // A load is waited for by the first module that needs it, so that cycles do not wait for each other.
        if (!this.modules.has(path) && !this.#started.has(path)) started.push(this.#load(path));
      }
    await Promise.all(started);
  }

  /** Resolves a request; undefined for one that is left to the page. */
  #resolve(module: LinkedModule, request: ModuleRequest, calls: ReadonlySet<ModuleRequest>): string | undefined {
    const { specifier } = request;
    if (/^(https?|data|blob):/i.test(specifier)) return undefined;
    const isRequired = module.record.format === 'commonjs' && !calls.has(request);
    const kind = isRequired ? 'require' : 'import';
    const path = isBuiltin(specifier) ? undefined : this.context.resolve(specifier, module.path, kind);
    if (path !== undefined) return path;
    const place = this.place(module, request.start, request.end);
    if (calls.has(request)) {
      this.failing.set(request, 'TypeError');
      this.context.report(diagnostic('link-import-call', { specifier, reason: 'it cannot be resolved' }, place));
    } else if (isRequired) this.context.report(diagnostic('link-require', { specifier }, place));
    else this.fail(diagnostic(isBuiltin(specifier) ? 'link-builtin' : 'link-missing', { specifier }, place));
    return undefined;
  }

  /** Connects a request with its module. Only `import()` of an invalid one may fail while the page runs. */
  #connect({ module, request, path }: ResolvedRequest): void {
    const { record } = module;
    const target = this.modules.get(path);
    if (target) {
      module.targets.set(request, target);
      if (record.format === 'commonjs' && target.record.format === 'module' && !isCall(record, request))
        this.fail(diagnostic('link-require-module', request, this.place(module, request.start, request.end)));
      return;
    }
    const [error] = this.#errors.get(path) ?? [];
    if (!error || record.format === 'json' || !isCall(record, request)) return this.#report(path);
    const reason = `${path}: ${error.message.replace(/\.$/, '')}`;
    const place = this.place(module, request.start, request.end);
    this.context.report(diagnostic('link-import-call', { specifier: request.specifier, reason }, place));
    module.targets.set(request, request.specifier);
    this.failing.set(request, 'SyntaxError');
  }

  /** Reports the errors of a module, once; those of earlier steps are reported already. */
  #report(path: string): void {
    for (const one of this.#errors.get(path) ?? []) this.context.report(one);
    this.#errors.delete(path);
    this.hasErrors = true;
  }

  /** Numbers modules in the order in which a reader finds them. */
  #number(entries: readonly LinkedModule[]): void {
    const order = new Set<LinkedModule>();
    const pending = [...entries].reverse();
    for (let module = pending.pop(); module; module = pending.pop()) {
      if (order.has(module)) continue;
      order.add(module);
      module.index = order.size;
      pending.push(...[...module.requested].reverse());
    }
  }

  #recordOf(path: string, asset: Asset): AnyRecord {
    const text = textOf(asset);
    const from = copiedText(asset, text, this.context.settings.maps);
    if (kindOf(asset.path) !== 'script' && extensionOf(asset.path) !== 'json')
      fail('link-kind', { file: path }, { file: path });
    if (extensionOf(asset.path) === 'json') return { format: 'json', from, values: jsonValues(asset, text) };
    return explained(asset, text, this.context, () => {
      const isModule = this.#isModule(path, asset.path);
      if (isModule === false) return this.#commonJs(asset, from);
      const parsed = parseScript(text, isModule);
      if (!parsed.isModule) return this.#commonJs(asset, from);
      const { program, comments } = parsed;
      const edits = removeDeadBranches(program, text, this.context.settings.constants);
      return analyseModule(program, from, this.removesUnused ? comments : undefined, edits);
    });
  }

  #commonJs(asset: Asset, from: CopiedText): CommonJsRecord {
    const record = analyseCommonJs(from, this.context.settings.constants);
    const sloppy = sloppySyntaxIn(from.text);
    if (sloppy !== undefined) fail('link-sloppy', {}, this.context.place(asset, from.text, sloppy, sloppy + 1));
    return record;
  }

  /** Reports whether a file is an ES module (Node.js documentation, "Determining module system"); undefined if its text decides. */
  #isModule(path: string, compiled: string): boolean | undefined {
    const byExtension = formatOf(compiled)?.isModule ?? formatOf(path)?.isModule;
    if (byExtension !== undefined) return byExtension;
    // Without imports and exports, TypeScript leaves nothing that tells.
    if (/^(tsx?|jsx)$/.test(extensionOf(path))) return true;
    return this.#packages.isModulePackage(path) ? true : undefined;
  }

  /** Finds the names that ES modules can import from a CommonJS module, as Node.js does. */
  #nameCommonJs(module: LinkedModule, visited: Set<LinkedModule>): ReadonlySet<string> {
    const { record } = module;
    if (record.format !== 'commonjs' || visited.has(module)) return module.commonJsNames;
    visited.add(module);
    module.commonJsNames.add('default');
    for (const name of record.exports) module.commonJsNames.add(name);
    for (const specifier of record.reexports) {
      const request = record.requires.find((one) => one.specifier === specifier);
      const target = request && module.targets.get(request);
      if (target && typeof target !== 'string')
        for (const name of this.#nameCommonJs(target, visited)) module.commonJsNames.add(name);
    }
    return module.commonJsNames;
  }
}

/** Reports whether a request is a call of `import()`. */
const isCall = (record: ModuleRecord | CommonJsRecord, request: ModuleRequest): boolean =>
  record.dynamicRequests.some((one) => one === request);

const sourceOf = (asset: Asset): string => asset.origins[0] ?? asset.id;

/** A JSON text and its members as expressions; only members whose names are not `default`. */
function jsonValues(asset: Asset, text: string): Map<string, string> {
  try {
    const value = JSON.parse(text) as unknown;
    const isObject = typeof value === 'object' && value !== null && !Array.isArray(value);
    const members = Object.entries(isObject ? value : {}).map(([key, one]) => [key, expressionOf(one)] as const);
    return new Map([...members, ['default', expressionOf(value)]]);
  } catch (error) {
    return fail('link-json', { reason: (error as Error).message }, { file: sourceOf(asset) });
  }
}

/** A JSON value as an expression; the key `__proto__` would set the prototype of a literal (ECMA-262, section B.3.1). */
function expressionOf(value: unknown): string {
  const text = JSON.stringify(value);
  return text.includes('"__proto__"') ? `JSON.parse(${JSON.stringify(text)})` : text;
}
