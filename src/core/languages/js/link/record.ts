import type {
  AnonymousFunctionDeclaration,
  AnyNode,
  ClassDeclaration,
  ExportDefaultDeclaration,
  ExportNamedDeclaration,
  FunctionDeclaration,
  Identifier,
  ImportAttribute,
  ImportExpression,
  Literal,
  Program,
} from 'acorn';
import type { CopiedText } from '../../source-maps/index.js';
import { identifiersIn } from '../top-level.js';
import type { NameUses } from './name-uses.js';
import { nameUses } from './name-uses.js';

/** A module that another one requests by a specifier; `[[RequestedModules]]` (ECMA-262, section 16.2.1.6). */
export interface ModuleRequest {
  readonly specifier: string;
  /** The import attribute `type`, if there is one. */
  readonly type?: string;
  /** The place of the specifier, as 0-based offsets. */
  readonly start: number;
  readonly end: number;
}

/** A name of another module; `*` is its namespace. */
export interface ImportedName {
  readonly request: ModuleRequest;
  readonly name: string;
  readonly start: number;
  readonly end: number;
}

/** An export of a name that the module itself declares. */
export interface LocalExport {
  readonly local: string;
}

/** An ES module, analysed for linking. */
export interface ModuleRecord {
  readonly format: 'module';
  readonly program: Program;
  readonly from: CopiedText;
  /** Static requests in the order of the text. */
  readonly requests: readonly ModuleRequest[];
  /** Calls of `import()` with a constant specifier. */
  readonly dynamicRequests: readonly (ModuleRequest & { readonly node: ImportExpression })[];
  /** Imported names by local name. */
  readonly imports: ReadonlyMap<string, ImportedName>;
  /** Exports by name: of own declarations, and of other modules. */
  readonly exports: ReadonlyMap<string, LocalExport | ImportedName>;
  /** The requests of `export * from`. */
  readonly stars: readonly ModuleRequest[];
  /** True if it contains `await` outside functions. */
  readonly hasAwait: boolean;
  /** The functions and classes that it declares at the top, by local name. */
  readonly functions: ReadonlyMap<string, FunctionDeclaration | AnonymousFunctionDeclaration>;
  readonly classes: ReadonlyMap<string, ClassDeclaration>;
  readonly uses: NameUses;
}

/** The local name of a default export that has none. */
export const defaultName = '*default*';

/** Analyses an ES module (`ParseModule`; ECMA-262, section 16.2.1.6.1). */
export function analyseModule(program: Program, from: CopiedText): ModuleRecord {
  const requests: ModuleRequest[] = [];
  const stars: ModuleRequest[] = [];
  const imports = new Map<string, ImportedName>();
  const exports = new Map<string, LocalExport | ImportedName>();
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
    } else if (node.type === 'ExportDefaultDeclaration') exports.set('default', { local: localDefault(node) });
  }
  // Names that are imported and exported again are those of the other module.
  for (const [name, one] of exports) {
    const imported = 'local' in one ? imports.get(one.local) : undefined;
    if (imported) exports.set(name, imported);
  }
  const functions: [string, FunctionDeclaration | AnonymousFunctionDeclaration][] = [];
  const classes: [string, ClassDeclaration][] = [];
  for (const node of program.body) {
    const one = 'declaration' in node && node.declaration ? node.declaration : node;
    if (one.type === 'FunctionDeclaration') functions.push([one.id?.name ?? defaultName, one]);
    else if (one.type === 'ClassDeclaration' && one.id) classes.push([one.id.name, one as ClassDeclaration]);
  }
  const uses = nameUses(program);
  const dynamicRequests = constantRequests(uses.dynamicImports);
  return {
    format: 'module',
    program,
    from,
    requests,
    dynamicRequests,
    imports,
    exports,
    stars,
    hasAwait: uses.hasAwait,
    functions: new Map(functions),
    classes: new Map(classes),
    uses,
  };
}

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

function localDefault({ declaration }: ExportDefaultDeclaration): string {
  const isNamed = declaration.type === 'FunctionDeclaration' || declaration.type === 'ClassDeclaration';
  return (isNamed && declaration.id?.name) || defaultName;
}

/** The calls of `import()` with a constant specifier. */
export function constantRequests(
  nodes: readonly ImportExpression[],
): (ModuleRequest & { readonly node: ImportExpression })[] {
  return nodes.flatMap((node) => {
    const specifier = constantText(node.source);
    return specifier === undefined ? [] : [{ specifier, start: node.source.start, end: node.source.end, node }];
  });
}

/** The value of a text without substitutions. */
export function constantText(node: AnyNode): string | undefined {
  if (node.type === 'Literal') return typeof node.value === 'string' ? node.value : undefined;
  if (node.type === 'TemplateLiteral' && node.expressions.length === 0)
    return node.quasis[0]!.value.cooked ?? undefined;
  return undefined;
}
