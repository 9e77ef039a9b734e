import type {
  AnyNode,
  Comment,
  ExportDefaultDeclaration,
  ExportNamedDeclaration,
  Identifier,
  ImportAttribute,
  ImportExpression,
  Literal,
  Program,
} from 'acorn';
import { pureCalls } from '../facts/pure-calls.js';
import { isAnonymous } from '../scopes/resolve.js';
import { hashbangLength, needsSemicolon } from '../script-text.js';
import { identifiersIn } from '../top-level.js';
import type { Edit } from './edits.js';
import { constantText } from './constant-text.js';
import { handledCalls } from './handled-calls.js';
import { importedMembers } from './imported-members.js';
import type { ModuleText } from './module-text.js';
import type { NameUses, TextRange } from './name-uses.js';
import { nameUses } from './name-uses.js';
import { declaredNames, statementEffects, unknownEffects, type Statement } from './statements.js';

/** A module that another one requests by a specifier; `[[RequestedModules]]` (ECMA-262, section 16.2.1.6). */
export interface ModuleRequest extends TextRange {
  readonly specifier: string;
  /** The import attribute `type`, if there is one. */
  readonly type?: string;
}

/** A call of `import()` with a constant specifier. */
export interface ImportCall extends ModuleRequest {
  readonly call: TextRange;
  /** The exports that the program takes from the namespace; undefined if it may use all. */
  readonly members?: readonly string[];
  /** True if the code handles its rejection in the same place. */
  readonly isHandled?: true;
}

/** A name of another module; `*` is its namespace. */
export interface ImportedName extends TextRange {
  readonly request: ModuleRequest;
  readonly name: string;
}

/** An export of a name that the module itself declares. */
export interface LocalExport {
  readonly local: string;
}

/** `export default` with an expression, or with a function or class without a name. */
export interface UnnamedDefault {
  /** The range up to the expression. */
  readonly head: TextRange;
  /** The offset at which the name of a function declaration is inserted; undefined for an expression. */
  readonly nameAt?: number;
  /** The end of the expression. */
  readonly end: number;
  /** True if it is a function or class whose name is `default`. */
  readonly isNamedDefault: boolean;
  readonly hasSemicolon: boolean;
}

/** An ES module, analysed for linking. The result refers to its text by offsets. */
export interface ModuleRecord {
  readonly format: 'module';
  readonly from: ModuleText;
  /** Static requests in the order of the text. */
  readonly requests: readonly ModuleRequest[];
  readonly dynamicRequests: readonly ImportCall[];
  /** Imported names by local name. */
  readonly imports: ReadonlyMap<string, ImportedName>;
  /** Exports by name: of own declarations, and of other modules. */
  readonly exports: ReadonlyMap<string, LocalExport | ImportedName>;
  /** The requests of `export * from`. */
  readonly stars: readonly ModuleRequest[];
  /** The first expression outside functions that waits for something. */
  readonly awaits?: TextRange | undefined;
  readonly statements: readonly Statement[];
  /** Ranges that only modules of their own have: imports, exports, the interpreter. */
  readonly removed: readonly TextRange[];
  /** Edits that replace constants. */
  readonly edits: readonly Edit[];
  /** Offsets at which a semicolon is inserted, since the text after them changes. */
  readonly semicolons: readonly number[];
  readonly unnamedDefault?: UnnamedDefault;
  /** The functions and classes that it declares at the top, by local name. */
  readonly functions: ReadonlySet<string>;
  readonly classes: ReadonlyMap<string, TextRange>;
  /** The names at the top that cannot be read until they are declared: of `let`, `const`, classes, and default exports. */
  readonly lexical: ReadonlySet<string>;
  readonly uses: NameUses;
}

/** The local name of a default export that has none. */
export const defaultName = '*default*';

/**
 * Analyses an ES module (`ParseModule`; ECMA-262, section 16.2.1.6.1).
 *
 * @param comments of the text, which may mark calls as pure
 * @param edits that replace constants
 */
export function analyseModule(
  program: Program,
  from: ModuleText,
  comments: readonly Comment[],
  edits: readonly Edit[] = [],
): ModuleRecord {
  const { text } = from;
  const requests: ModuleRequest[] = [];
  const stars: ModuleRequest[] = [];
  const imports = new Map<string, ImportedName>();
  const exports = new Map<string, LocalExport | ImportedName>();
  const functions = new Set<string>();
  const classes = new Map<string, TextRange>();
  const lexical = new Set<string>();
  const removed: TextRange[] = [{ start: 0, end: hashbangLength(text) }];
  const semicolons: number[] = [];
  let unnamedDefault: UnnamedDefault | undefined;
  const request = (source: Literal, attributes: readonly ImportAttribute[] | undefined): ModuleRequest => {
    const type = typeOf(attributes ?? []);
    const one = { specifier: String(source.value), start: source.start, end: source.end, ...(type && { type }) };
    requests.push(one);
    return one;
  };
  for (const node of program.body) {
    if (node.type === 'ImportDeclaration') {
      const from = request(node.source, node.attributes);
      for (const one of node.specifiers) {
        const name =
          one.type === 'ImportSpecifier'
            ? nameOf(one.imported)
            : one.type === 'ImportNamespaceSpecifier'
              ? '*'
              : 'default';
        imports.set(one.local.name, { request: from, name, start: one.start, end: one.end });
      }
    } else if (node.type === 'ExportAllDeclaration') {
      const from = request(node.source, node.attributes);
      if (!node.exported) stars.push(from);
      else exports.set(nameOf(node.exported), { request: from, name: '*', start: node.start, end: node.end });
    } else if (node.type === 'ExportNamedDeclaration') {
      const from = node.source ? request(node.source, node.attributes) : undefined;
      for (const [name, local, at] of namedExports(node))
        exports.set(name, from ? { request: from, name: local, start: at.start, end: at.end } : { local });
    } else if (node.type === 'ExportDefaultDeclaration') {
      const local = namedDefault(node);
      exports.set('default', { local: local ?? defaultName });
      if (local === undefined) unnamedDefault = defaultOf(node, text);
      else removed.push({ start: node.start, end: node.declaration.start });
    }
    const open = 'declaration' in node ? node.declaration : node;
    if (/^(Import|ExportAll)/.test(node.type) || !open) removed.push({ start: node.start, end: node.end });
    else if (node.type === 'ExportNamedDeclaration') removed.push({ start: node.start, end: open.start });
    if (open && !/^(Import|Export)/.test(node.type === 'ExportNamedDeclaration' ? open.type : node.type))
      if (needsSemicolon(open, text)) semicolons.push(node.end);
    if (open?.type !== 'FunctionDeclaration' && !(open?.type === 'VariableDeclaration' && open.kind === 'var'))
      for (const name of statementNames(node)) lexical.add(name);
    if (open?.type === 'FunctionDeclaration') functions.add(open.id?.name ?? defaultName);
    else if (open?.type === 'ClassDeclaration' && open.id)
      classes.set(open.id.name, { start: open.start, end: open.end });
  }
  // Names that are imported and exported again are those of the other module.
  for (const [name, one] of exports) {
    const imported = 'local' in one ? imports.get(one.local) : undefined;
    if (imported) exports.set(name, imported);
  }
  const uses = nameUses(program);
  const globalEdits = globalObjectEdits(uses);
  const dynamicRequests = importCalls(program, uses.dynamicImports);
  const ranges = program.body.map((node) => ({ start: node.start, end: node.end, names: statementNames(node) }));
  // What `eval` does is not known.
  const effects = uses.hasEval ? undefined : statementEffects(program, pureCalls(program, comments, text));
  return {
    format: 'module',
    from,
    requests,
    dynamicRequests,
    imports,
    exports,
    stars,
    awaits: uses.awaits,
    statements: ranges.map(({ start, end, names }, at) => ({
      ...(effects?.[at] ?? unknownEffects),
      start,
      end,
      declares: names,
    })),
    removed,
    edits: [...edits, ...globalEdits],
    semicolons,
    ...(unnamedDefault && { unnamedDefault }),
    functions,
    classes,
    lexical,
    uses,
  };
}

/** Edits that replace Node.js' name of the global object, `global`, by that of the language. */
export const globalObjectEdits = ({ globals }: NameUses): Edit[] =>
  (globals.get('global') ?? []).map(({ start, end, isShorthand }) => ({
    start,
    end,
    text: `${isShorthand ? 'global: ' : ''}globalThis`,
  }));

/** The names that a statement declares; a default export without a name declares one. */
const statementNames = (node: AnyNode): string[] =>
  node.type === 'ExportDefaultDeclaration' && namedDefault(node) === undefined ? [defaultName] : declaredNames(node);

/** The name of an import or export, which may be a string. */
const nameOf = (node: Identifier | Literal): string => (node.type === 'Identifier' ? node.name : String(node.value));

const typeOf = (attributes: readonly ImportAttribute[]): string | undefined => {
  const found = attributes.find(({ key }) => nameOf(key) === 'type');
  return found && String(found.value.value);
};

function namedExports(node: ExportNamedDeclaration): [name: string, local: string, at: AnyNode][] {
  const { declaration } = node;
  if (!declaration) return node.specifiers.map((one) => [nameOf(one.exported), nameOf(one.local), one]);
  const ids =
    declaration.type === 'VariableDeclaration'
      ? declaration.declarations.flatMap(({ id }) => identifiersIn(id))
      : [declaration.id];
  return ids.map((id) => [id.name, id.name, id]);
}

/** The name of the function or class that is the default export. */
function namedDefault({ declaration }: ExportDefaultDeclaration): string | undefined {
  const isNamed = declaration.type === 'FunctionDeclaration' || declaration.type === 'ClassDeclaration';
  return isNamed ? declaration.id?.name : undefined;
}

const functionHead = /^(?:async(?:\s|\/\*[^]*?\*\/)*)?function(?:\s|\/\*[^]*?\*\/|\/\/.*\n)*\*?/;

function defaultOf({ start, end, declaration }: ExportDefaultDeclaration, text: string): UnnamedDefault {
  if (declaration.type === 'FunctionDeclaration') {
    const head = functionHead.exec(text.slice(declaration.start, end))![0];
    const nameAt = declaration.start + head.length;
    return { head: { start, end: declaration.start }, nameAt, end, isNamedDefault: true, hasSemicolon: true };
  }
  const keyword = /^export(?:\s|\/\*[^]*?\*\/|\/\/.*\n)*default/.exec(text.slice(start, declaration.start))![0].length;
  const hasSemicolon = text[end - 1] === ';' && declaration.type !== 'ClassDeclaration';
  return {
    head: { start, end: start + keyword },
    end: hasSemicolon ? end - 1 : end,
    isNamedDefault: isAnonymous(declaration),
    hasSemicolon,
  };
}

/** The calls of `import()` with a constant specifier. */
export function importCalls(program: Program, nodes: readonly ImportExpression[]): ImportCall[] {
  const members = nodes.length === 0 ? undefined : importedMembers(program);
  const handled = nodes.length === 0 ? undefined : handledCalls(program);
  return nodes.flatMap((node) => {
    const { start, end } = node.source;
    const specifier = constantText(node.source);
    const found = members?.get(node);
    const call = { start: node.start, end: node.end };
    const isHandled = handled?.has(node) === true && ({ isHandled: true } as const);
    return specifier === undefined
      ? []
      : [{ specifier, start, end, call, ...(found && { members: found }), ...isHandled }];
  });
}
