import type { LinkedModule } from './graph.js';
import type { NameUse } from './name-uses.js';

/**
 * The local name of the default export of an ES module that was compiled to CommonJS. ES modules that Node.js would not run
 * import it as `default`; those that it would run import `module.exports`, as there.
 */
export const compiledDefault = '*compiled default*';

/** The local name of the value of a global variable that stands for a module, as a whole. */
export const wholeGlobal = '*global*';

/** What an export stands for: a name that a module declares, or the namespace of a module. */
export type ResolvedExport =
  | { readonly module: LinkedModule; readonly local: string }
  | { readonly module: LinkedModule; readonly namespace: true }
  /** A name of a module that is not part of the bundle. */
  | { readonly external: string; readonly name: string };

/** Why an export cannot be resolved. */
export type UnresolvedExport = 'missing' | 'ambiguous';

/** Resolves a name that a module exports (`ResolveExport`; ECMA-262, section 16.2.1.6.3). */
export function resolveExport(
  module: LinkedModule,
  name: string,
  visited: Map<LinkedModule, Set<string>> = new Map(),
): ResolvedExport | UnresolvedExport {
  const seen = visited.get(module) ?? new Set();
  // A circular request.
  if (seen.has(name)) return 'missing';
  visited.set(module, seen.add(name));
  const { record } = module;
  if (record.format === 'style') return 'missing';
  if (record.format === 'json') return record.values.has(name) ? { module, local: name } : 'missing';
  if (record.format === 'commonjs')
    return module.isExternal || module.commonJsNames.has(name) ? { module, local: name } : 'missing';
  const own = record.exports.get(name);
  if (own && 'local' in own) return { module, local: own.local };
  if (own) return resolveImport(module.target(own.request), own.name, module, visited);
  if (name === 'default') return 'missing';
  let found: ResolvedExport | undefined;
  for (const star of record.stars) {
    const target = module.target(star);
    if (typeof target === 'string') continue;
    const resolved = resolveExport(target, name, visited);
    if (resolved === 'ambiguous') return resolved;
    if (resolved === 'missing') continue;
    if (found && !isSameExport(found, resolved)) return 'ambiguous';
    found ??= resolved;
  }
  return found ?? 'missing';
}

/**
 * Resolves a name that is imported from a module, or from a specifier that is not part of the bundle.
 *
 * @param importer the importing module
 */
export function resolveImport(
  target: LinkedModule | string,
  name: string,
  importer: LinkedModule,
  visited?: Map<LinkedModule, Set<string>>,
): ResolvedExport | UnresolvedExport {
  if (typeof target === 'string') return { external: target, name };
  // The exports of a global variable are not known.
  if (name === '*' && target.isExternal) return { module: target, local: wholeGlobal };
  const isCompiled = target.record.format === 'commonjs' && target.commonJsNames.has('__esModule');
  if (name === 'default' && isCompiled && !importer.isNodeModule) return { module: target, local: compiledDefault };
  if (name === '*') return { module: target, namespace: true };
  return resolveMember(target, name, importer, visited);
}

/**
 * Reports whether a module imports names of a CommonJS module as they are when its code runs, although they are not known
 * before. Modules that packages publish for browsers only (`module` of package.json) were written for that; Node.js never
 * runs them as ES modules. In modules of the project, such a name may be a mistake.
 */
const isReadAtRunTime = (target: LinkedModule, importer: LinkedModule): boolean =>
  target.record.format === 'commonjs' && importer.path.includes('node_modules/') && !importer.isNodeModule;

/**
 * Resolves a use of an imported name. Members of namespaces stand for exports, unless they are called and depend on
 * `this`; of values that are not known to be functions, it is assumed that they do not.
 *
 * @returns undefined if there is no such export
 */
export function resolveUse(
  target: LinkedModule | string,
  name: string,
  importer: LinkedModule,
  use: NameUse,
): { readonly resolved: ResolvedExport; readonly end: number } | undefined {
  let resolved = resolveImport(target, name, importer);
  let { end } = use;
  if (typeof resolved === 'string') return undefined;
  if (use.isWrite) return { resolved, end };
  const [first] = use.members;
  if (first?.name === 'default' && 'local' in resolved && resolved.local === wholeGlobal)
    return { resolved: { module: resolved.module, local: 'default' }, end: first.end };
  for (const member of use.members) {
    if (!('namespace' in resolved)) break;
    const next = resolveMember(resolved.module, member.name, importer);
    if (typeof next === 'string' || (member.isCalled && usesThis(next))) break;
    resolved = next;
    ({ end } = member);
  }
  return { resolved, end };
}

/** Resolves a member of the namespace of a module. */
function resolveMember(
  target: LinkedModule,
  name: string,
  importer: LinkedModule,
  visited?: Map<LinkedModule, Set<string>>,
): ResolvedExport | UnresolvedExport {
  const resolved = resolveExport(target, name, visited);
  return resolved === 'missing' && isReadAtRunTime(target, importer) ? { module: target, local: name } : resolved;
}

function usesThis(resolved: ResolvedExport): boolean {
  if (!('local' in resolved)) return false;
  const { record } = resolved.module;
  return record.format === 'module' && (record.uses.usesThis.get(resolved.local) ?? false);
}

const isSameExport = (a: ResolvedExport, b: ResolvedExport): boolean =>
  'external' in a || 'external' in b
    ? 'external' in a && 'external' in b && a.external === b.external && a.name === b.name
    : a.module === b.module && ('local' in a ? 'local' in b && a.local === b.local : 'namespace' in b);

/** The names of a module's namespace, in the order of code units (`GetExportedNames`; section 16.2.1.6.2). */
export function namespaceNames(module: LinkedModule): string[] {
  return [...exportedNames(module, new Set())].filter((name) => typeof resolveExport(module, name) !== 'string').sort();
}

function exportedNames(module: LinkedModule, visited: Set<LinkedModule>): Set<string> {
  if (visited.has(module)) return new Set();
  visited.add(module);
  const { record } = module;
  if (record.format === 'style') return new Set();
  if (record.format === 'json') return new Set(['default']);
  if (record.format === 'commonjs') return new Set(module.commonJsNames);
  const names = new Set(record.exports.keys());
  for (const star of record.stars) {
    const target = module.target(star);
    if (typeof target !== 'string')
      for (const name of exportedNames(target, visited)) if (name !== 'default') names.add(name);
  }
  return names;
}
