import type { FileReferences, Reference } from '../../references/reference.js';
import type { SectionBuilder } from '../../source-maps/index.js';
import { hashbangLength } from '../script-text.js';
import { keyOf, type Bundle, type Hop, type ModuleFile } from './bundle.js';
import { chunkRequests } from './chunk-requests.js';
import type { Chunk } from './chunk.js';
import type { CommonJsRecord } from './commonjs.js';
import { withoutRanges, type Edit } from './edits.js';
import type { ResolvedExport } from './exports.js';
import type { LinkedModule } from './graph.js';
import { addLine, exportedNameIn, exportLines, exportSpecifier, quoted, relativePath } from './export-lines.js';
import { FilePart } from './file-part.js';
import { LazyParts } from './lazy-parts.js';
import type { TextRange } from './name-uses.js';
import { addPart } from './printed-part.js';
import { memberAccess, pathComment, reference, scriptMeta } from './printed-texts.js';
import { ImportList } from './import-list.js';
import { namespaceHelper } from './namespace-helper.js';
import { namespaceName, stemOf, type ChunkNames, type ModuleName } from './names.js';
import { defaultName, type ImportCall, type ModuleRecord, type UnnamedDefault } from './record.js';

/** The form of a classic script. */
export interface ScriptForm {
  /** The variable that gets the exports. */
  readonly global: string | undefined;
}

/** What is known about a printed file. */
export interface PrintedFile {
  readonly references: FileReferences;
  /** The length of the code of each module, in UTF-16 code units. */
  readonly lengths: ReadonlyMap<LinkedModule, number>;
}

/** Prints a file that exports what a module exports, from chunks. */
export function printModuleFile(bundle: Bundle, file: ModuleFile, out: SectionBuilder): PrintedFile {
  const url = relativePath(file.path, bundle.pathOf(bundle.chunkOf(file.module)));
  const references: Reference[] = [];
  addLine({ text: `import ${quoted(url)};\n`, url }, references, out);
  for (const line of exportLines(bundle, file, undefined)) addLine(line, references, out);
  return { references: { references, exports: [...file.exports.keys()], stars: [] }, lengths: new Map() };
}

/** Prints the file of a chunk, again after edits of modules that keep their shapes. */
export class ChunkPrinter {
  readonly #names: ChunkNames;
  readonly #path: string;
  readonly #imports: ImportList;
  /** Names in this chunk for what other files hold. */
  readonly #aliases = new Map<string, string>();
  /** The functions of calls that are always rejected, by the kind of error. */
  readonly #rejections = new Map<string, string>();
  /** The name of the function that makes namespaces; empty if it is not needed. */
  #namespaceHelper = '';
  #out!: SectionBuilder;
  #references: Reference[] = [];
  #lengths = new Map<LinkedModule, number>();
  /** The part that code is made for. */
  #part: FilePart;
  /** The parts of the file, the one of the chunk first, with the edits of each module; undefined until they are known. */
  #parts: readonly FilePart[] | undefined;
  /** The variables that hold CommonJS modules. */
  readonly #caches = new Map<LinkedModule, string>();
  /** The name of what stands for `import.meta` in a classic script; empty if it is not needed. */
  #meta = '';
  readonly #lazy: LazyParts | undefined;

  /** @param script the form of a classic script; without it, the file is an ES module */
  constructor(
    private readonly bundle: Bundle,
    private readonly chunk: Chunk,
    private readonly script: ScriptForm | undefined,
  ) {
    this.#names = bundle.namesOf(chunk);
    this.#path = bundle.pathOf(chunk);
    this.#imports = new ImportList();
    this.#part = new FilePart(chunk);
    this.#lazy = script && new LazyParts(bundle.graph.lazy, (like) => this.#names.unique(like));
  }

  /** Takes the new code of a module of the chunk. */
  renew(module: LinkedModule): void {
    for (const part of this.#parts ?? []) {
      this.#part = part;
      if (part.edits.has(module)) part.edits.set(module, this.#editsOf(module));
    }
  }

  print(out: SectionBuilder): PrintedFile {
    const { chunk, bundle } = this;
    this.#out = out;
    this.#references = [];
    this.#lengths = new Map();
    const [main, ...lazy] = (this.#parts ??= this.#prepare()) as [FilePart, ...FilePart[]];
    const { script } = this;
    const first = bundle.fileIn(chunk)?.module.record.from.text ?? '';
    out.add(first.slice(0, hashbangLength(first)));
    if (script)
      out.add(`${script.global === undefined ? '' : `var ${script.global} = `}(function () {\n"use strict";\n`);
    const imports = [...this.#imports.lines()];
    if (script && imports.length > 0) throw new Error(`a classic script imports ${imports[0]!.url ?? ''}`);
    for (const line of imports) addLine(line, this.#references, out);
    if (this.#meta !== '') out.add(scriptMeta(this.#meta));
    for (const [module, edits] of main.edits) this.#measure(module, () => this.#printHoisted(module, edits));
    for (const [kind, name] of this.#rejections)
      out.add(`const ${name} = (specifier) => Promise.reject(new ${kind}('Failed to load module ' + specifier));\n`);
    if (this.#namespaceHelper !== '') out.add(namespaceHelper(this.#namespaceHelper));
    this.#printPart(main);
    if (script) {
      for (const part of lazy) this.#printLazy(part);
      out.add(this.#lazy!.helpers());
      if (script.global !== undefined) out.add(this.#exportsObject());
      out.add('})();\n');
      return { references: { references: this.#references }, lengths: this.#lengths };
    }
    const file = bundle.fileIn(chunk);
    const names = bundle.exportsOf(chunk).map(([name, exported]) => exportSpecifier(this.#names.of(name), exported));
    if (names.length > 0) out.add(`export { ${names.join(', ')} };\n`);
    if (file) for (const line of exportLines(bundle, file, chunk)) addLine(line, this.#references, out);
    const exported = file ? [...file.exports.keys()] : [];
    const references = {
      references: this.#references,
      exports: [...names.map(exportedNameIn), ...exported],
      stars: [],
    };
    return { references, lengths: this.#lengths };
  }

  /** Finds the names of everything in the file, once. */
  #prepare(): FilePart[] {
    const { bundle, chunk } = this;
    for (const target of this.#dependenciesOf(chunk))
      this.#imports.add(typeof target === 'string' ? target : this.#pathTo(target));
    const parts = [this.#part, ...bundle.graph.lazy.map((one) => new FilePart(one))];
    for (const part of this.script ? parts : parts.slice(0, 1)) {
      this.#part = part;
      const { modules, definitions } = part.chunk;
      const codes = new Set([...definitions, ...modules.filter(({ record }) => record.format === 'module')]);
      for (const module of codes) part.edits.set(module, this.#editsOf(module));
      for (const module of modules) part.evaluations.set(module, this.#evaluation(module));
      for (const module of new Set([...definitions, ...modules])) part.namespaces.push(...this.#namespace(module));
      for (const module of codes) this.#keepNames(module);
    }
    this.#part = parts[0]!;
    return parts;
  }

  /** Prints the names, and then the modules, of a part. */
  #printPart({ chunk, readOnly, renamed, namespaces, edits, evaluations }: FilePart): void {
    const out = this.#out;
    if (readOnly.object !== '') out.add(`const ${readOnly.object} = {\n${[...readOnly.members.values()].join('')}};\n`);
    for (const [name, original] of renamed)
      out.add(`Object.defineProperty(${name}, 'name', { value: ${quoted(original)}, configurable: true });\n`);
    for (const one of namespaces) out.add(one);
    for (const module of chunk.modules)
      this.#measure(module, () => this.#printModule(module, edits.get(module) ?? [], evaluations.get(module)!));
  }

  /** Prints a part as a function that evaluates it once. */
  #printLazy(part: FilePart): void {
    const lazy = this.#lazy!;
    const others = this.#dependenciesOf(part.chunk).filter((one) => typeof one !== 'string' && lazy.has(one));
    this.#out.add(lazy.head(part.chunk, others as Chunk[]));
    this.#printPart(part);
    this.#out.add(lazy.tail(part.chunk));
  }

  #measure(module: LinkedModule, print: () => void): void {
    const before = this.#out.text.length;
    print();
    this.#lengths.set(module, (this.#lengths.get(module) ?? 0) + this.#out.text.length - before);
  }

  /** The statement by which a classic script returns the exports of its entry point. */
  #exportsObject(): string {
    const [entry] = this.bundle.entries;
    const { exports } = this.bundle.moduleFiles.get(entry!.module)!;
    const members = [...exports].map(([name, one]) => `get ${quoted(name)}() { return ${this.#nameOf(one)}; }`);
    const object = `{ ${members.join(', ')} }`;
    return `return Object.freeze(Object.defineProperty(${object}, "__esModule", { value: true }));\n`;
  }

  /** The chunks, and specifiers that are left to the page, in the order in which a chunk requests them. */
  #dependenciesOf({ modules }: Chunk): (Chunk | string)[] {
    return chunkRequests(modules, this.bundle.graph.evaluatedIn, this.bundle.used);
  }

  #pathTo(chunk: Chunk): string {
    return relativePath(this.#path, this.bundle.pathOf(chunk));
  }

  #editsOf(module: LinkedModule): Edit[] {
    const { record } = module;
    if (record.format === 'module') return this.#moduleEdits(module, record);
    if (record.format !== 'commonjs') return [];
    const requires = record.requires.flatMap((request) => {
      const target = module.target(request);
      // It is left to the parameter `require`, which fails.
      if (typeof target === 'string') return [];
      const { start, end } = request.call;
      const local = target.record.format === 'json' ? 'default' : '*';
      return [{ start, end, text: this.#nameOf({ module: target, local }) + (local === '*' ? '()' : '') }];
    });
    return [...record.edits, ...requires, ...this.#importCalls(module, record.dynamicRequests)];
  }

  #importCalls(module: LinkedModule, requests: readonly ImportCall[]): Edit[] {
    return requests.flatMap((request) => {
      const { call } = request;
      const target = module.target(request);
      if (typeof target === 'string') {
        const kind = module.failing.get(request);
        return kind ? [{ ...call, text: this.#rejected(kind, target) }] : [];
      }
      if (this.script) return this.#lazyCall(call, target);
      // Calls in code that is left out load nothing.
      const file = this.bundle.moduleFiles.get(target);
      return file
        ? [{ start: request.start, end: call.end - 1, ...reference(relativePath(this.#path, file.path)) }]
        : [];
    });
  }

  /** A call of `import()` in a classic script: its namespace comes from a part of the file. */
  #lazyCall(call: TextRange, target: LinkedModule): Edit[] {
    const name = this.#names.find({ module: target, local: namespaceName });
    // Calls in code that is left out load nothing.
    if (name === undefined) return [];
    const chunk = this.bundle.chunkOfName({ module: target, local: namespaceName });
    return [{ ...call, text: this.#lazy!.call(chunk, name) }];
  }

  /** A call that is rejected like `import()` of an invalid module, whatever the names around it mean. */
  #rejected(kind: 'SyntaxError' | 'TypeError', specifier: string): string {
    const name = this.#rejections.get(kind) ?? this.#names.unique(`reject_${kind}`);
    this.#rejections.set(kind, name);
    return `${name}(${quoted(specifier)})`;
  }

  #moduleEdits(module: LinkedModule, record: ModuleRecord): Edit[] {
    const { used } = this.bundle;
    const edits = this.#renameEdits(module, record);
    for (const { start, end } of record.removed) edits.push({ start, end, text: '' });
    const dead = record.statements.filter((one) => !used.isLive(module, one));
    const ends = new Set(dead.map(({ end }) => end));
    for (const at of record.semicolons) if (!ends.has(at)) edits.push({ start: at, end: at, text: ';' });
    if (record.unnamedDefault && used.isDeclared(module, defaultName))
      edits.push(...this.#defaultEdits(module, record.unnamedDefault));
    for (const one of used.importsOf(module)) {
      const { local, use, resolved } = one;
      const hop = this.bundle.hopOf(module, one);
      const name = use.isWrite
        ? this.script
          ? this.#readOnlyMember(resolved)
          : this.#readOnly(module, record, local)
        : hop
          ? this.#throughFile(hop, resolved, local)
          : this.#nameOf(resolved);
      edits.push({ ...edit(use, name, local), end: (hop ?? one).end });
    }
    edits.push(...this.#importCalls(module, record.dynamicRequests));
    if (this.script)
      for (const one of record.uses.metas) {
        this.#meta ||= this.#names.unique('import_meta');
        edits.push({ ...one, text: this.#meta });
      }
    for (const [{ start, end, specifier }, path] of module.urlTargets) {
      const [rest = ''] = /[?#].*$/s.exec(specifier) ?? [];
      edits.push({ start, end, use: 'file', ...reference(relativePath(this.#path, path) + rest) });
    }
    return dead.length === 0 ? [...edits, ...record.edits] : withoutRanges([...edits, ...record.edits], dead);
  }

  /** Renames what the module declares; functions and classes keep the names that programs can read. */
  #renameEdits(module: LinkedModule, record: ModuleRecord): Edit[] {
    const edits: Edit[] = [];
    for (const [local, uses] of record.uses.topLevel) {
      if (record.imports.has(local)) continue;
      const name = this.#names.find({ module, local });
      if (name === undefined || name === local) continue;
      const declared = record.classes.get(local);
      if (declared) {
        edits.push({ start: declared.start, end: declared.start, text: `let ${name} = ` });
        edits.push({ start: declared.end, end: declared.end, text: ';' });
      }
      for (const use of uses) {
        // Inside a class, its name is its own.
        if (declared && use.start > declared.start && use.start < declared.end) continue;
        edits.push(edit(use, name, local));
        const named = record.uses.naming.get(use.start);
        if (!named) continue;
        const key = local === '__proto__' ? `[${quoted(local)}]` : local;
        edits.push({ start: named.start, end: named.start, text: `{ ${key}: ` });
        edits.push({ start: named.end, end: named.end, text: ` }.${local}` });
      }
    }
    return edits;
  }

  #defaultEdits(module: LinkedModule, { head, nameAt, end, isNamedDefault, hasSemicolon }: UnnamedDefault): Edit[] {
    const name = this.#names.of({ module, local: defaultName });
    if (nameAt !== undefined)
      return [
        { ...head, text: '' },
        { start: nameAt, end: nameAt, text: ` ${name}` },
      ];
    return [
      { ...head, text: `const ${name} =${isNamedDefault ? ' { default:' : ''}` },
      { start: end, end, text: `${isNamedDefault ? ' }.default' : ''}${hasSemicolon ? '' : ';'}` },
    ];
  }

  /** The name in this chunk of something that a module exports. */
  #nameOf(resolved: ResolvedExport): string {
    if ('external' in resolved) return this.#external(resolved.external, resolved.name);
    const { bundle } = this;
    const name = bundle.nameOf(resolved);
    if (!name) return this.#fromFile(resolved.module, '*', stemOf(resolved.module.path));
    const chunk = bundle.chunkOfName(name);
    if (chunk === this.#part.chunk) return this.#names.of(name);
    if (this.#lazy) return this.#lazy.name(chunk, this.#names.of(name), this.#part.chunk);
    const printed = bundle.namesOf(chunk).of(name);
    const alias = this.#alias(keyOf(name), this.#pathTo(chunk), bundle.exportedName(name), printed);
    if (this.#isLater(chunk)) this.#keepName(name, printed, alias);
    return alias;
  }

  /** The name of something that is imported from the file of a module, in a cycle of chunks. */
  #throughFile({ module, name }: Hop, resolved: ResolvedExport, like: string): string {
    const alias = this.#fromFile(module, name, like);
    const declared = this.bundle.nameOf(resolved);
    const chunk = declared && this.bundle.chunkOfName(declared);
    if (chunk && this.#isLater(chunk)) this.#keepName(declared, this.bundle.namesOf(chunk).of(declared), alias);
    return alias;
  }

  /** Reports whether a chunk may be evaluated after this one. In cycles, that depends on where these are entered. */
  #isLater(chunk: Chunk): boolean {
    const { chunks, isInSplitCycle } = this.bundle.graph;
    if ([...chunk.modules, ...this.chunk.modules].some(isInSplitCycle)) return true;
    return chunks.indexOf(chunk) > chunks.indexOf(this.chunk);
  }

  /** Lets a function have its own name (`SetFunctionName`), whatever it is called in its file. */
  #keepName({ module: { record }, local }: ModuleName, printed: string, alias: string): void {
    const original = local === defaultName ? 'default' : local;
    if (record.format === 'module' && record.functions.has(local) && printed !== original)
      this.#part.renamed.set(alias, original);
  }

  /** A name for an import that fails when it is assigned to. */
  #readOnly(module: LinkedModule, record: ModuleRecord, local: string): string {
    const { request, name } = record.imports.get(local)!;
    const target = module.target(request);
    return typeof target === 'string' ? this.#external(target, name) : this.#fromFile(target, name, local);
  }

  /** A member for an import that is read as usual, and fails when it is assigned to: it has no setter. */
  #readOnlyMember(resolved: ResolvedExport): string {
    const { readOnly } = this.#part;
    readOnly.object ||= this.#names.unique('read_only');
    const name = this.#nameOf(resolved);
    readOnly.members.set(name, `  get ${name}() { return ${name}; },\n`);
    return `${readOnly.object}.${name}`;
  }

  #fromFile(module: LinkedModule, name: string, like: string): string {
    const { path } = this.bundle.moduleFiles.get(module)!;
    return this.#alias(`file ${String(module.index)} ${name}`, relativePath(this.#path, path), name, like);
  }

  #external(specifier: string, name: string): string {
    return this.#alias(
      `external ${specifier} ${name}`,
      specifier,
      name,
      name === '*' || name === 'default' ? specifier : name,
    );
  }

  #alias(key: string, from: string, name: string, like: string): string {
    const known = this.#aliases.get(key);
    if (known !== undefined) return known;
    const alias = this.#names.unique(like);
    this.#aliases.set(key, alias);
    this.#imports.add(from, name, alias);
    return alias;
  }

  /** The object that stands for the namespace of a module, if it is in this chunk. */
  #namespace(module: LinkedModule): string[] {
    const exports = this.bundle.inlineNamespaceOf(module);
    if (!exports || this.bundle.chunkOfName({ module, local: namespaceName }) !== this.#part.chunk) return [];
    this.#namespaceHelper ||= this.#names.unique('make_namespace');
    const getters = [...exports].map(([name, one]) => `  [${quoted(name)}]: () => ${this.#nameOf(one)},\n`);
    const name = this.#names.of({ module, local: namespaceName });
    return [`const ${name} = /*#__PURE__*/ ${this.#namespaceHelper}({ __proto__: null,\n${getters.join('')}});\n`];
  }

  /** Lets the functions of a module have their own names. */
  #keepNames(module: LinkedModule): void {
    const { record } = module;
    if (record.format !== 'module') return;
    for (const local of record.functions) {
      if (!this.bundle.used.isDeclared(module, local)) continue;
      const name = this.#names.of({ module, local });
      this.#keepName({ module, local }, name, name);
    }
  }

  /** Prints what has to be there before any module is evaluated: functions of CommonJS modules, and data. */
  #printHoisted(module: LinkedModule, edits: readonly Edit[]): void {
    const { record } = module;
    if (record.format === 'json')
      for (const local of this.bundle.neededOf(module))
        this.#out.add(`const ${this.#names.of({ module, local })} = ${record.values.get(local)!};\n`);
    else if (record.format === 'commonjs') this.#printCommonJs(module, record, edits);
  }

  #printCommonJs(module: LinkedModule, record: CommonJsRecord, edits: readonly Edit[]): void {
    const usesRequire =
      record.otherRequires.length > 0 || record.requires.some((one) => typeof module.target(one) === 'string');
    const name = this.#names.of({ module, local: '*' });
    const cached = this.#caches.get(module) ?? this.#names.unique(name.replace(/^require_/, 'module_'));
    this.#caches.set(module, cached);
    const failing = `, (name) => { throw new Error("Cannot find module '" + name + "'"); }`;
    const head = `${pathComment(module.path)}var ${cached};\nfunction ${name}() {\nif (!${cached}) (function (exports, module${usesRequire ? ', require' : ''}) {\n`;
    const tail = `\n}).call((${cached} = { exports: {} }).exports, ${cached}.exports, ${cached}${usesRequire ? failing : ''});\nreturn ${cached}.exports;\n}\n`;
    addPart(record.from, { head, tail, edits, start: hashbangLength(record.from.text) }, this.#references, this.#out);
  }

  /**
   * The code that evaluates a CommonJS module, and takes the names that others import from it, or that of data; empty for
   * others. Before it, these names are undefined, and not in a dead zone (ECMA-262, section 16.2.1.8.4).
   */
  #evaluation(module: LinkedModule): string {
    const { record } = module;
    if (record.format === 'json' && !this.#part.chunk.definitions.includes(module))
      return this.bundle
        .neededOf(module)
        .map((local) => `var ${this.#names.of({ module, local })} = ${record.values.get(local)!};\n`)
        .join('');
    if (record.format !== 'commonjs') return '';
    const call = `${this.#nameOf({ module, local: '*' })}()`;
    const names = this.bundle.neededOf(module).map((local) => {
      // A global variable may hold the exports of an ES module, by the convention of compilers, or be the default export.
      if (module.isExternal && local === 'default')
        return `var ${this.#names.of({ module, local })} = ${call} && ${call}.__esModule ? ${call}.default : ${call};\n`;
      const member = memberAccess(local);
      return `var ${this.#names.of({ module, local })} = ${call}${member};\n`;
    });
    return `${call};\n${names.join('')}`;
  }

  #printModule(module: LinkedModule, edits: readonly Edit[], evaluation: string): void {
    const { record } = module;
    if (record.format !== 'module') return this.#out.add(evaluation);
    addPart(record.from, { head: pathComment(module.path), tail: '\n', edits }, this.#references, this.#out);
  }
}

const edit = (
  { start, end, isShorthand }: { start: number; end: number; isShorthand: boolean },
  name: string,
  local: string,
): Edit => ({
  start,
  end,
  text: isShorthand ? `${local}: ${name}` : name,
});
