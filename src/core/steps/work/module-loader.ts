import { textOf, type Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { TsconfigPaths } from '../../compilers/tsconfig-paths.js';
import { externalEntry } from '../../config/externals.js';
import { diagnostic, DiagnosticError, placed, type Diagnostic } from '../../diagnostics/index.js';
import { encodeText } from '../../files/text.js';
import { formatOf } from '../../languages/formats.js';
import { LinkedModule, type AnyRecord } from '../../languages/js/link/graph.js';
import type { RelativeUrl } from '../../languages/js/link/name-uses.js';
import type { ModuleRequest } from '../../languages/js/link/record.js';
import { parseScript, ScriptSyntaxError } from '../../languages/js/parse.js';
import { recordOf } from './module-record.js';
import { PackageFacts } from './package-facts.js';
import { unresolved } from './unresolved.js';

/** A file that a request leads to; the key is different if the file is imported in another way than usual. */
interface Found {
  readonly key: string;
  readonly path: string;
  /** The import attribute `type`, if it matters. */
  readonly type?: string;
}

/** A request with the file that it resolves to. */
interface ResolvedRequest {
  readonly module: LinkedModule;
  readonly request: ModuleRequest;
  readonly path: string;
}

/** How modules are loaded. */
export interface LoadOptions {
  /** Conditions of `exports` and `imports` of packages besides the usual ones of browsers. */
  readonly conditions: readonly string[];
  /** Specifiers that are not linked, with the global variables that stand for them; undefined for those that stay imports. */
  readonly externals: ReadonlyMap<string, string | undefined>;
}

/** The entry of a list of externals that stands for a specifier. */
function externalFor(
  specifier: string,
  externals: LoadOptions['externals'],
): { readonly global: string | undefined } | undefined {
  const entry = externalEntry([...externals.keys()], specifier);
  return entry === undefined ? undefined : { global: externals.get(entry) };
}

/** The path of the module that stands for those that packages leave out in browsers. */
const emptyPath = '(empty)';

/** Loads the modules that entry points reach by their imports. */
export class ModuleLoader {
  readonly modules = new Map<string, LinkedModule>();
  readonly #assets = new Map<LinkedModule, Asset>();
  readonly #started = new Set<string>();
  /** The errors of invalid modules, by path, until they are reported. */
  readonly #errors = new Map<string, readonly Diagnostic[]>();
  readonly #requests: ResolvedRequest[] = [];
  /** The assets that relative URLs refer to, by source, and undefined while they are loaded. */
  readonly #files = new Map<string, Asset | undefined>();
  readonly #urls: { readonly module: LinkedModule; readonly url: RelativeUrl; readonly path: string }[] = [];
  hasErrors = false;

  readonly #importers = new Map<LinkedModule, readonly LinkedModule[]>();
  readonly #packages: PackageFacts;

  readonly #paths: TsconfigPaths;

  constructor(
    private readonly context: StepContext,
    readonly options: LoadOptions,
  ) {
    this.#packages = new PackageFacts(context);
    this.#paths = new TsconfigPaths(context);
  }

  /** Loads entry points and all modules that they reach; undefined if there are errors. */
  async load(entries: readonly Asset[]): Promise<readonly LinkedModule[] | undefined> {
    const modules = entries.flatMap((asset) => {
      const module = this.#add(sourceOf(asset), sourceOf(asset), asset);
      if (!module) this.#report(sourceOf(asset));
      return module ?? [];
    });
    await Promise.all(modules.map((module) => this.#follow(module)));
    const isCallOf = ({ module, request }: ResolvedRequest): boolean => isCall(module.record, request);
    const calls = this.#requests.filter(isCallOf);
    const invalid = this.#connectStatic(this.#requests.filter((one) => !isCallOf(one)));
    for (const entry of modules) for (const path of invalid.get(entry) ?? []) this.#report(path);
    for (const call of calls) this.#connectCall(call, invalid);
    for (const module of invalid.keys()) this.modules.delete(module.path);
    if (this.hasErrors) return undefined;
    this.#number(modules);
    for (const module of this.modules.values()) this.#nameCommonJs(module, new Set());
    return modules;
  }

  /** The relative URLs, with the module or asset that they lead to; those that lead to none are left as they are. */
  get urls(): { readonly module: LinkedModule; readonly url: RelativeUrl; readonly target: LinkedModule | Asset }[] {
    // The order in which modules were loaded must not matter.
    const sorted = this.#urls.toSorted((a, b) =>
      a.module.path === b.module.path ? a.url.start - b.url.start : a.module.path < b.module.path ? -1 : 1,
    );
    return sorted.flatMap(({ module, url, path }) => {
      const target = this.modules.get(path) ?? this.#files.get(path);
      return target ? [{ module, url, target }] : [];
    });
  }

  /** The modules that import a module, in the order of their paths. */
  importersOf(module: LinkedModule): readonly LinkedModule[] {
    if (this.#importers.size === 0)
      for (const one of this.modules.values())
        for (const requested of one.requested)
          this.#importers.set(requested, [...(this.#importers.get(requested) ?? []), one]);
    return [...(this.#importers.get(module) ?? [])].sort((a, b) => (a.path < b.path ? -1 : 1));
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
  #add(key: string, path: string, asset: Asset, type?: string): LinkedModule | undefined {
    try {
      const record = recordOf(asset, path, type, this.context, this.#packages);
      const hasEffects = record.format === 'style' || this.#packages.hasSideEffects(path);
      const isNodeModule = formatOf(path)?.isModule ?? this.#packages.isModulePackage(path);
      const module = new LinkedModule(path, record, this.modules.size, hasEffects, false, isNodeModule);
      this.modules.set(key, module);
      this.#assets.set(module, asset);
      return module;
    } catch (error) {
      if (!(error instanceof DiagnosticError)) throw error;
      this.#errors.set(key, error.diagnostics);
      return undefined;
    }
  }

  /** Loads a module and those that it requests, once. */
  async #load({ key, path, type }: Found): Promise<void> {
    this.#started.add(key);
    const asset = await this.context.load(path);
    const module = asset && this.#add(key, path, asset, type);
    if (module) await this.#follow(module);
  }

  async #follow(module: LinkedModule): Promise<void> {
    const { record } = module;
    if (record.format === 'json' || record.format === 'style') return;
    const requests = record.format === 'module' ? record.requests : record.requires;
    const calls = new Set<ModuleRequest>(record.dynamicRequests);
    const started: Promise<void>[] = [];
    // A load is waited for by the first module that needs it, so that cycles do not wait for each other.
    const start = (found: Found): void => {
      if (!this.modules.has(found.key) && !this.#started.has(found.key)) started.push(this.#load(found));
    };
    for (const request of [...requests, ...calls]) {
      const found = this.#resolve(module, request, calls);
      if (!found) module.targets.set(request, request.specifier);
      else {
        this.#requests.push({ module, request, path: found.key });
        start(found);
      }
    }
    for (const url of record.uses.urls) {
      const found = this.#resolveUrl(module, url);
      if (!found) continue;
      // Whether it is one decides what it is loaded as.
      if (url.worker === 'classic' && isScript(found.path)) started.push(this.#followWorker(module, url, found));
      else started.push(...this.#followUrl(module, url, found));
    }
    await Promise.all(started);
  }

  async #loadFile(key: string, path: string): Promise<void> {
    this.#files.set(key, await this.context.load(path));
  }

  /** Loads what a relative URL leads to, unless that was begun. */
  #followUrl(module: LinkedModule, url: RelativeUrl, found: Found): Promise<void>[] {
    this.#urls.push({ module, url, path: found.key });
    if (isScript(found.path))
      return this.modules.has(found.key) || this.#started.has(found.key) ? [] : [this.#load(found)];
    return this.#followFile(found.key, found.path);
  }

  #followFile(key: string, path: string): Promise<void>[] {
    if (this.#files.has(key)) return [];
    this.#files.set(key, undefined);
    return [this.#loadFile(key, path)];
  }

  /** Loads a worker that is created as a classic script: one that imports nothing stays as it is. */
  async #followWorker(module: LinkedModule, url: RelativeUrl, found: Found): Promise<void> {
    if (await this.#isClassic(found.path)) {
      const key = `${found.key} (classic)`;
      this.#urls.push({ module, url, path: key });
      await Promise.all(this.#followFile(key, found.path));
      return;
    }
    this.#warnOfWorker(module, url);
    await Promise.all(this.#followUrl(module, url, found));
  }

  /** Reports whether a worker is a classic script that imports nothing, and can stay one. */
  async #isClassic(path: string): Promise<boolean> {
    const asset = await this.context.load(path);
    if (!asset || formatOf(asset.path)?.isModule === true) return false;
    try {
      return !parseScript(textOf(asset)).isModule;
    } catch (error) {
      if (error instanceof ScriptSyntaxError) return false;
      throw error;
    }
  }

  #warnOfWorker(module: LinkedModule, { specifier, start, end }: RelativeUrl): void {
    this.context.report(diagnostic('link-worker', { specifier }, this.place(module, start, end)));
  }

  /** The file of a relative URL; undefined if there is none. */
  #resolveUrl(module: LinkedModule, { specifier, start, end }: RelativeUrl): Found | undefined {
    if (/^([a-z][a-z0-9+.-]*:|[/#?]|$)/i.test(specifier)) return undefined;
    const name = /^[^?#]*/.exec(specifier)![0];
    // It names a folder.
    if (/(^|\/)\.{0,2}$/.test(name)) return undefined;
    const found = this.context.resolve(name.startsWith('.') ? name : `./${name}`, module.path);
    const place = this.place(module, start, end);
    if (typeof found !== 'string') this.context.report(diagnostic('link-url', { specifier }, place));
    return typeof found === 'string' ? { key: found, path: found } : undefined;
  }

  /** Resolves a request; undefined for one that is left to the page. */
  #resolve(module: LinkedModule, request: ModuleRequest, calls: ReadonlySet<ModuleRequest>): Found | undefined {
    const { specifier, type } = request;
    const external = externalFor(specifier, this.options.externals);
    if (external) return external.global === undefined ? undefined : this.#globalModule(external.global);
    if (/^(https?|data|blob):/i.test(specifier)) return undefined;
    const isRequired = module.record.format === 'commonjs' && !calls.has(request);
    const path = this.#find(specifier, module.path, isRequired ? 'require' : 'import');
    if (path === false) return { key: this.#emptyModule(), path: emptyPath };
    // A file may be imported in several ways.
    if (path !== undefined)
      return type === 'css' || type === 'text' ? { key: `${path} (${type})`, path, type } : { key: path, path };
    const place = this.place(module, request.start, request.end);
    if (calls.has(request) && !this.#isNeeded(module, request)) {
      module.failing.set(request, 'TypeError');
      this.context.report(diagnostic('link-import-call', { specifier, reason: 'it cannot be resolved' }, place));
    } else if (isRequired) this.context.report(diagnostic('link-require', { specifier }, place));
    else this.fail(unresolved(specifier, module.path, this.context, place));
    return undefined;
  }

  /** Reports whether a call of `import()` has to succeed: in the project, unless the code handles its rejection. */
  #isNeeded({ path }: LinkedModule, request: ModuleRequest): boolean {
    return !isOfPackage(path) && !('isHandled' in request);
  }

  /** The file of a specifier, by the paths of tsconfig.json first. */
  #find(specifier: string, from: string, kind: 'import' | 'require'): string | false | undefined {
    const options = { kind, conditions: this.options.conditions };
    for (const path of this.#paths.candidates(specifier, from)) {
      const found = this.context.resolve(`/${path}`, from, options);
      if (found !== undefined) return found;
    }
    return this.context.resolve(specifier, from, options);
  }

  /** The module that stands for a global variable. */
  #globalModule(name: string): Found {
    const key = `(global ${name})`;
    if (!this.modules.has(key)) {
      const bytes = encodeText(`module.exports = ${name};\n`);
      const asset = { id: key, path: `${name}.cjs`, bytes, origins: [], isPristine: false, version: key };
      const record = recordOf(asset, asset.path, undefined, this.context, this.#packages);
      const module = new LinkedModule(key, record, this.modules.size, false, true);
      this.modules.set(key, module);
      this.#assets.set(module, asset);
    }
    return { key, path: key };
  }

  /** The module that stands for those that packages leave out in browsers. */
  #emptyModule(): string {
    if (!this.modules.has(emptyPath)) {
      const bytes = new Uint8Array();
      this.#add(emptyPath, emptyPath, {
        id: emptyPath,
        path: `${emptyPath}.cjs`,
        bytes,
        origins: [],
        isPristine: false,
        version: emptyPath,
      });
    }
    return emptyPath;
  }

  /**
   * Connects static requests with their modules.
   *
   * @returns the modules that cannot be linked, with the paths of the invalid modules that they need
   */
  #connectStatic(requests: readonly ResolvedRequest[]): Map<LinkedModule, ReadonlySet<string>> {
    const invalid = new Map<LinkedModule, Set<string>>();
    const users = new Map<LinkedModule, LinkedModule[]>();
    for (const { module, request, path } of requests) {
      const target = this.modules.get(path);
      if (!target) {
        invalid.set(module, (invalid.get(module) ?? new Set()).add(path));
        continue;
      }
      module.targets.set(request, target);
      users.set(target, [...(users.get(target) ?? []), module]);
      if (module.record.format === 'commonjs' && target.record.format === 'module')
        this.fail(diagnostic('link-require-module', request, this.place(module, request.start, request.end)));
    }
    const pending = [...invalid.keys()];
    for (let module = pending.pop(); module; module = pending.pop()) {
      const paths = invalid.get(module)!;
      for (const user of users.get(module) ?? []) {
        const known = invalid.get(user) ?? new Set();
        const before = known.size;
        for (const path of paths) known.add(path);
        if (known.size === before) continue;
        invalid.set(user, known);
        pending.push(user);
      }
    }
    return invalid;
  }

  /** Connects a call of `import()`. If the module is invalid, the call fails while the page runs. */
  #connectCall(
    { module, request, path }: ResolvedRequest,
    invalid: ReadonlyMap<LinkedModule, ReadonlySet<string>>,
  ): void {
    if (invalid.has(module)) return;
    const target = this.modules.get(path);
    const [needed] = target ? (invalid.get(target) ?? []) : [path];
    if (target && needed === undefined) {
      module.targets.set(request, target);
      return;
    }
    const [error] = this.#errors.get(needed!) ?? [];
    if (!error || this.#isNeeded(module, request)) return this.#report(needed!);
    const reason = `${needed!}: ${error.message.replace(/\.$/, '')}`;
    const place = this.place(module, request.start, request.end);
    this.context.report(diagnostic('link-import-call', { specifier: request.specifier, reason }, place));
    module.targets.set(request, request.specifier);
    module.failing.set(request, 'SyntaxError');
  }

  /** Reports the errors of a module, once; those of earlier steps are reported already. */
  #report(path: string): void {
    const [importer] = this.#requests
      .filter((one) => one.path === path)
      .sort((a, b) => (a.module.path < b.module.path ? -1 : 1));
    for (const one of this.#errors.get(path) ?? []) {
      // What cannot be imported is a mistake of the import.
      const isOfImport = importer && (one.code === 'link-kind' || one.code === 'link-json');
      const { module, request } = importer ?? {};
      const place = isOfImport ? this.place(module!, request!.start, request!.end) : undefined;
      this.context.report(place ? placed(one, place) : one);
    }
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
const isCall = (record: AnyRecord, request: ModuleRequest): boolean =>
  'dynamicRequests' in record && record.dynamicRequests.some((one) => one === request);

/** Reports whether a file belongs to an installed package. */
const isOfPackage = (path: string): boolean => path.includes('node_modules/');

const isScript = (path: string): boolean => formatOf(path)?.kind === 'script';

const sourceOf = (asset: Asset): string => asset.origins[0] ?? asset.id;
