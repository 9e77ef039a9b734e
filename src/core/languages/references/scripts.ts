import type * as Tree from 'acorn';
import { eachChild } from '../js/tree/children.js';
import { constantText } from '../js/link/constant-text.js';
import { isStackOverflow, moduleError, parseScript, ScriptSyntaxError, type ParsedScript } from '../js/parse.js';
import { newerSyntax } from '../js/syntax/newer.js';
import { syntaxLevelFor, type SyntaxLevel } from '../js/syntax/level.js';
import {
  mapReference,
  mayBeUrl,
  type FileReferences,
  type ImportedName,
  type Reference,
  type Search,
  type UrlText,
} from './reference.js';

/** True if a text may refer to modules: most of the time, looking is cheaper than parsing. */
const mayRefer = /\b(?:import|export|require)\b/;

/**
 * Finds the references of a script: modules in `import` and `export … from` (ECMA-262, section 16.2), in `import()`,
 * and in unguarded calls of `require`; files in `new URL('…', import.meta.url)`.
 *
 * @param search thorough where files are renamed: service workers, URLs relative to the script by other means than
 *   `import.meta`, comments that name source maps, and texts that may be URLs. With browsers, the syntax is checked.
 * @param module whether it is a module; without it, the text decides
 */
export function scriptReferences(
  text: string,
  { isThorough, checkedFor }: Search = { isThorough: false },
  module?: boolean,
): FileReferences {
  if (!isThorough && checkedFor === undefined && !mayRefer.test(text)) return { references: [] };
  try {
    const parsed = parseScript(text, module);
    const { program, isModule, comments } = parsed;
    const collector = new Collector(isModule, isThorough);
    for (const statement of program.body) collector.statement(statement);
    if (isThorough) for (const one of comments) collector.comment(text.slice(one.start, one.end), one.start);
    return { ...collector.result(), ...(checkedFor && syntaxOf(text, parsed, syntaxLevelFor(checkedFor))) };
  } catch (error) {
    const unsearched = { references: [], ...(isThorough && ({ isUnsearched: true } as const)) };
    if (isStackOverflow(error)) return unsearched;
    if (error instanceof ScriptSyntaxError)
      return { ...unsearched, invalid: { message: error.message, start: error.offset } };
    throw error;
  }
}

/** The reasons why browsers may not read a valid script as it is. */
function syntaxOf(
  text: string,
  { program, isModule }: ParsedScript,
  level: SyntaxLevel,
): Pick<FileReferences, 'notModule' | 'newer'> {
  const error = isModule ? undefined : moduleError(text);
  const newer = level === 'latest' ? undefined : newerSyntax(program, level);
  return {
    ...(error && { notModule: { message: error.message, start: error.offset } }),
    ...(newer && { newer }),
  };
}

class Collector {
  readonly #references: Reference[] = [];
  readonly #exports: string[] = [];
  readonly #stars: string[] = [];
  readonly #passedOn: Record<string, readonly [specifier: string, name: string]> = {};
  /** Imported names by local name. */
  readonly #imported = new Map<string, readonly [specifier: string, name: string]>();
  /** Exports of local names, which may be imported by a later declaration. */
  readonly #local: (readonly [local: string, exported: string])[] = [];
  readonly #requires: Reference[] = [];
  readonly #texts: UrlText[] = [];
  /** True if the script detects its environment, or defines its own `require`. */
  #isGuarded = false;

  constructor(
    private readonly isModule: boolean,
    private readonly isThorough: boolean,
  ) {}

  result(): FileReferences {
    for (const [local, exported] of this.#local)
      if (this.#imported.has(local)) this.#passedOn[exported] = this.#imported.get(local)!;
    const references = this.#isGuarded ? this.#references : [...this.#references, ...this.#requires];
    return {
      references: references.sort((a, b) => a.start - b.start),
      ...(this.isModule && { exports: this.#exports, stars: this.#stars }),
      ...(Object.keys(this.#passedOn).length > 0 && { passedOn: this.#passedOn }),
      ...(this.#texts.length > 0 && { texts: this.#withoutReferences(this.#texts) }),
    };
  }

  comment(text: string, start: number): void {
    const map = mapReference(text, start);
    if (map) this.#references.push(map);
  }

  #withoutReferences(texts: readonly UrlText[]): UrlText[] {
    const known = new Set(this.#references.map(({ start }) => start));
    return texts.filter(({ start }) => !known.has(start)).sort((a, b) => a.start - b.start);
  }

  statement(node: Tree.Statement | Tree.ModuleDeclaration): void {
    if (node.type === 'ImportDeclaration') {
      const specifier = String(node.source.value);
      for (const one of node.specifiers) this.#imported.set(one.local.name, [specifier, importedName(one)]);
      return this.#import(node.source, namesOf(node), node.attributes);
    }
    if (node.type === 'ExportAllDeclaration') {
      if (node.exported) {
        this.#exports.push(nameOf(node.exported));
        this.#passedOn[nameOf(node.exported)] = [String(node.source.value), '*'];
      } else this.#stars.push(String(node.source.value));
      return this.#import(node.source, [], node.attributes);
    }
    if (node.type === 'ExportNamedDeclaration') {
      for (const { local, exported } of node.specifiers) {
        this.#exports.push(nameOf(exported));
        if (node.source) this.#passedOn[nameOf(exported)] = [String(node.source.value), nameOf(local)];
        else this.#local.push([nameOf(local), nameOf(exported)]);
      }
      if (node.declaration) this.#exports.push(...declaredBy(node.declaration));
      if (node.source) return this.#import(node.source, namesOf(node), node.attributes);
    }
    if (node.type === 'ExportDefaultDeclaration') this.#exports.push('default');
    if (node.type === 'ExpressionStatement') this.#require(node.expression);
    if (node.type === 'VariableDeclaration') for (const { init } of node.declarations) if (init) this.#require(init);
    this.#visit(node);
  }

  #import(source: Tree.Literal, names: readonly ImportedName[], attributes: readonly Tree.ImportAttribute[]): void {
    const type = attributes.find(({ key }) => (key.type === 'Identifier' ? key.name : key.value) === 'type');
    this.#references.push({
      use: 'import',
      url: String(source.value),
      start: source.start,
      end: source.end,
      ...(names.length > 0 && { names }),
      ...(type && { type: String(type.value.value) }),
    });
  }

  /** A call of `require` that a script begins with: where there is none, the script ends there. */
  #require(node: Tree.AnyNode): void {
    if (node.type === 'MemberExpression') return this.#require(node.object);
    if (node.type === 'AssignmentExpression') return this.#require(node.right);
    if (node.type !== 'CallExpression') return;
    const [source] = node.arguments;
    if (node.callee.type !== 'Identifier') this.#require(node.callee);
    else if (node.callee.name === 'require' && source?.type === 'Literal' && typeof source.value === 'string')
      this.#requires.push({ use: 'require', url: source.value, start: node.start, end: node.end });
  }

  #visit(root: Tree.AnyNode): void {
    const open: Tree.AnyNode[] = [root];
    for (let node = open.pop(); node; node = open.pop()) {
      this.#look(node);
      eachChild(node, (child) => open.push(child));
    }
  }

  /** `new URL('…', import.meta.url)`; in linked classic scripts, something else stands for `import.meta`. */
  #newUrl({ callee, arguments: [source, base] }: Tree.NewExpression): void {
    const text = textOf(source);
    if (!text || callee.type !== 'Identifier' || callee.name !== 'URL' || !isMember(base, 'url')) return;
    // It names a folder.
    if (/^(|[^?#]*\/)\.{0,2}$/.test(text.url.replace(/[?#].*$/s, ''))) return;
    if (base.object.type === 'MetaProperty') this.#references.push({ use: 'file', ...text });
    else if (this.isThorough) this.#references.push({ use: 'file', ...text, isOptional: true });
  }

  /** `navigator.serviceWorker.register('…')`, whose URL identifies the worker (Service Workers, section 3.4.3). */
  #registration({ callee, arguments: [source] }: Tree.CallExpression): void {
    if (!isMember(callee, 'register') || !isMember(callee.object, 'serviceWorker')) return;
    const url = source?.type === 'NewExpression' ? source.arguments[0] : source;
    const text = textOf(url);
    if (text) this.#references.push({ use: 'file', ...text, isOptional: true, keepsAddress: true });
  }

  #look(node: Tree.AnyNode): void {
    if (node.type === 'ImportExpression') {
      const { source, options } = node;
      const url = constantText(source);
      if (url === undefined) return;
      this.#references.push({
        use: 'import',
        url,
        start: source.start,
        end: source.end,
        ...(options && { type: 'any' }),
      });
    } else if (node.type === 'NewExpression') this.#newUrl(node);
    else if (node.type === 'CallExpression' && this.isThorough) this.#registration(node);
    else if (node.type === 'Literal' && typeof node.value === 'string' && this.isThorough) {
      const { value: url, start, end } = node;
      if (mayBeUrl(url)) this.#texts.push({ url, start, end });
    } else if (node.type === 'UnaryExpression' && node.operator === 'typeof') {
      const { argument } = node;
      const asked = ['require', 'module', 'exports', 'define', 'process'];
      if (argument.type === 'Identifier' && asked.includes(argument.name)) this.#isGuarded = true;
    } else if (node.type === 'Identifier' && node.name === 'createRequire') this.#isGuarded = true;
    else if (node.type === 'VariableDeclarator' && node.id.type === 'Identifier' && node.id.name === 'require')
      this.#isGuarded = true;
    else if (node.type === 'FunctionDeclaration' && node.id?.name === 'require') this.#isGuarded = true;
  }
}

/** A text and its range; undefined for other expressions. */
function textOf(node: Tree.AnyNode | undefined): UrlText | undefined {
  const url = node && constantText(node);
  return url === undefined ? undefined : { url, start: node!.start, end: node!.end };
}

const isMember = (node: Tree.AnyNode | undefined, name: string): node is Tree.MemberExpression =>
  node?.type === 'MemberExpression' &&
  !node.computed &&
  node.property.type === 'Identifier' &&
  node.property.name === name;

function namesOf({ specifiers }: Tree.ImportDeclaration | Tree.ExportNamedDeclaration): ImportedName[] {
  return specifiers.flatMap((one): ImportedName[] => {
    const { start, end } = one;
    if (one.type === 'ImportDefaultSpecifier') return [{ name: 'default', start, end }];
    if (one.type === 'ImportSpecifier') return [{ name: nameOf(one.imported), start, end }];
    return one.type === 'ExportSpecifier' ? [{ name: nameOf(one.local), start, end }] : [];
  });
}

function importedName(one: Tree.ImportDeclaration['specifiers'][number]): string {
  if (one.type === 'ImportSpecifier') return nameOf(one.imported);
  return one.type === 'ImportDefaultSpecifier' ? 'default' : '*';
}

function nameOf(node: Tree.Identifier | Tree.Literal): string {
  return node.type === 'Identifier' ? node.name : String(node.value);
}

/** The names that a declaration binds. */
function declaredBy(node: Tree.Declaration): string[] {
  if (node.type !== 'VariableDeclaration') return node.id ? [node.id.name] : [];
  const found: string[] = [];
  const bind = (pattern: Tree.Pattern | null): void => {
    if (pattern?.type === 'Identifier') found.push(pattern.name);
    else if (pattern?.type === 'ArrayPattern') pattern.elements.forEach(bind);
    else if (pattern?.type === 'ObjectPattern')
      for (const property of pattern.properties)
        bind(property.type === 'Property' ? property.value : property.argument);
    else if (pattern?.type === 'AssignmentPattern') bind(pattern.left);
    else if (pattern?.type === 'RestElement') bind(pattern.argument);
  };
  for (const { id } of node.declarations) bind(id);
  return found;
}
