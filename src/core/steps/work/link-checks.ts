import type { Expression } from 'acorn';
import type { StepContext } from '../../assets/context.js';
import { externalEntry } from '../../config/externals.js';
import { diagnostic, nearestWord } from '../../diagnostics/index.js';
import type { Bundle } from '../../languages/js/link/bundle.js';
import type { CertainRead } from '../../languages/js/link/certain-reads.js';
import { namespaceNames, resolveExport, resolveImport } from '../../languages/js/link/exports.js';
import { cyclesOf } from '../../graph.js';
import { evaluationOrder, type LinkedModule } from '../../languages/js/link/graph.js';
import type { NameUse } from '../../languages/js/link/name-uses.js';
import type { ImportedName, ModuleRecord, ModuleRequest } from '../../languages/js/link/record.js';
import { exportAdvice } from './export-advice.js';
import type { ModuleLoader } from './module-loader.js';

/** Reports imports and exports of names that do not exist, and assignments to imports. */
export function checkImports(loader: ModuleLoader, context: StepContext): void {
  for (const module of loader.modules.values()) {
    const { record } = module;
    checkGlobals(loader, module, context);
    checkComputedImports(loader, module, context);
    if (record.format !== 'module') continue;
    const exported = [...record.exports.values()].filter((one): one is ImportedName => !('local' in one));
    const used = [...record.imports.values(), ...exported];
    for (const one of new Set(used)) checkName(loader, module, one, context);
    if (!module.path.includes('node_modules/')) checkMembers(loader, module, record, context);
    for (const local of record.imports.keys())
      for (const { start, end, isWrite } of usesOf(record, local))
        if (isWrite) context.report(diagnostic('link-assignment', { name: local }, loader.place(module, start, end)));
  }
}

/**
 * Reports members of namespaces that do not exist. Packages look at them to find out what another version has, so that
 * only modules of the project are checked.
 */
function checkMembers(loader: ModuleLoader, module: LinkedModule, record: ModuleRecord, context: StepContext): void {
  for (const [local, { request, name }] of record.imports) {
    const resolved = resolveImport(module.target(request), name, module);
    if (typeof resolved === 'string' || !('namespace' in resolved)) continue;
    for (const { members, isWrite } of usesOf(record, local)) {
      const [member] = members;
      if (!member || isWrite || resolveExport(resolved.module, member.name) !== 'missing') continue;
      if (member.name in Object.prototype) continue;
      const near = nearestWord(member.name, namespaceNames(resolved.module));
      const place = loader.place(module, member.end - member.name.length, member.end);
      context.report(diagnostic('link-member', { name: member.name, file: resolved.module.path, near }, place));
    }
  }
}

/**
 * Reports reads of imports that certainly come too early, in cycles of modules: the variables and classes of a module that
 * is evaluated later have no value yet (ECMA-262, section 16.2.1.6.1.3.1).
 */
export function checkCycles(loader: ModuleLoader, entries: readonly LinkedModule[], context: StepContext): void {
  const cycles = cyclesOf(loader.modules.values(), (module) => module.dependencies);
  const reported = new Set<CertainRead>();
  for (const entry of cycles.size > 0 ? entries : []) {
    const order = new Map(evaluationOrder(entry, (one) => one.dependencies).map((one, at) => [one, at]));
    // Modules that wait let others go first.
    if ([...order.keys()].some((one) => one.hasAwait)) continue;
    for (const [module, position] of order) {
      const { record } = module;
      if (record.format !== 'module' || !cycles.has(module)) continue;
      for (const read of record.statements.flatMap((one) => one.certainReads)) {
        const { request, name } = record.imports.get(read.local)!;
        const resolved = resolveImport(module.target(request), name, module);
        if (typeof resolved === 'string' || !('local' in resolved) || reported.has(read)) continue;
        const { module: declaring, local } = resolved;
        if (declaring.record.format !== 'module' || !declaring.record.lexical.has(local)) continue;
        if ((order.get(declaring) ?? -1) <= position) continue;
        reported.add(read);
        const place = loader.place(module, read.start, read.end);
        context.report(diagnostic('link-cycle', { name: read.local, file: declaring.path }, place));
      }
    }
  }
}

/** Reports what classic scripts cannot do: import other files, and wait for something. */
export function checkScripts(loader: ModuleLoader, entries: readonly LinkedModule[]): void {
  const all = new Set(entries);
  for (const module of all) {
    for (const one of module.requested) all.add(one);
    const { record } = module;
    if (record.format !== 'module' && record.format !== 'commonjs') continue;
    const report = (what: string, { start, end }: { start: number; end: number }): void =>
      loader.fail(diagnostic('link-script', { what }, loader.place(module, start, end)));
    const isLeft = (one: ModuleRequest): boolean => typeof module.target(one) === 'string' && !module.failing.has(one);
    for (const one of record.dynamicRequests) if (isLeft(one)) report('an `import()` that is not linked', one.call);
    if (record.format !== 'module') continue;
    if (record.awaits) report('`await` at the top level', record.awaits);
    for (const one of record.requests) if (isLeft(one)) report('an import that is not linked', one);
  }
}

/**
 * Reports modules that `import()` loads and that cannot be parts of a classic script.
 *
 * @returns false if there are any
 */
export function checkParts({ graph, unsharable }: Bundle, loader: ModuleLoader): boolean {
  const report = (file: string, what: string, name?: ImportedName): void => {
    const module = loader.modules.get(file)!;
    const place = name ? loader.place(module, name.start, name.end) : { file };
    loader.fail(diagnostic('link-script', { what }, place));
  };
  for (const { name, user } of unsharable) {
    const { record } = user;
    const imported = record.format === 'module' ? [...record.imports.values()] : [];
    const found = imported.find((one) => {
      const resolved = resolveImport(user.target(one.request), one.name, user);
      return typeof resolved === 'object' && 'local' in resolved && resolved.local === name.local;
    });
    report(
      user.path,
      `a variable that changes (\`${name.local}\` of ${name.module.path}) in what \`import()\` loads`,
      found,
    );
  }
  const divided = graph.lazy.flatMap(({ modules }) => modules).find((one) => graph.isInSplitCycle(one));
  if (divided) report(divided.path, 'a cycle of modules that `import()` calls enter at different places');
  return unsharable.length === 0 && !divided;
}

/** The names of Node.js that browsers do not have. */
const nodeNames = ['process', 'Buffer', '__dirname', '__filename', 'setImmediate'];

/** Reports names of Node.js that a module for browsers uses without looking whether they exist. */
function checkGlobals(loader: ModuleLoader, module: LinkedModule, context: StepContext): void {
  const { record } = module;
  if (record.format !== 'module' && record.format !== 'commonjs') return;
  if (record.format === 'commonjs')
    for (const { what, start, end } of record.sloppyMeanings)
      context.report(diagnostic('link-sloppy-meaning', { what }, loader.place(module, start, end)));
  const isForNode = externalEntry([...loader.options.externals.keys()], 'node:process') !== undefined;
  if (isForNode) return;
  const isGuarded = (name: string): boolean => new RegExp(`typeof\\s+${name}\\b`).test(record.from.text);
  for (const name of nodeNames) {
    const [use] = record.uses.globals.get(name) ?? [];
    if (use && !isGuarded(name))
      context.report(diagnostic('link-node-name', { name }, loader.place(module, use.start, use.end)));
  }
  if (record.format === 'module' && !module.path.includes('node_modules/') && !isGuarded('require'))
    for (const { start, end } of record.uses.globals.get('require') ?? []) {
      const [, specifier] = /^\s*\(\s*["']([^"']*)["']\s*\)/.exec(record.from.text.slice(end)) ?? [];
      if (specifier !== undefined)
        loader.fail(diagnostic('link-require-mixed', { specifier }, loader.place(module, start, end)));
    }
  const [other] = record.format === 'commonjs' ? record.otherRequires : [];
  if (other && !isGuarded('require'))
    context.report(diagnostic('link-require-name', {}, loader.place(module, other.start, other.end)));
}

/** Reports calls of `import()` with relative paths that are only known when they are called. */
function checkComputedImports(loader: ModuleLoader, module: LinkedModule, context: StepContext): void {
  const { record } = module;
  if (record.format !== 'module' && record.format !== 'commonjs') return;
  for (const { source } of record.uses.dynamicImports) {
    const start = constantStart(source);
    if (start !== undefined && /^\.\.?\//.test(start))
      context.report(diagnostic('link-import-computed', { start }, loader.place(module, source.start, source.end)));
  }
}

/** The constant beginning of a text that is put together: of a template, or of additions. */
function constantStart(node: Expression): string | undefined {
  if (node.type === 'TemplateLiteral')
    return node.expressions.length > 0 ? (node.quasis[0]!.value.cooked ?? '') : undefined;
  if (node.type !== 'BinaryExpression' || node.operator !== '+' || node.left.type === 'PrivateIdentifier')
    return undefined;
  return node.left.type === 'Literal' ? String(node.left.value) : constantStart(node.left);
}

function checkName(loader: ModuleLoader, module: LinkedModule, imported: ImportedName, context: StepContext): void {
  const target = module.target(imported.request);
  const resolved = resolveImport(target, imported.name, module);
  if (typeof resolved !== 'string' || typeof target === 'string') return;
  const { name, start, end } = imported;
  const place = loader.place(module, start, end);
  const file = target.path;
  if (resolved === 'ambiguous') loader.fail(diagnostic('link-ambiguous', { name, file }, place));
  else {
    const advice = exportAdvice(name, imported.request.specifier, target, context);
    loader.fail(diagnostic('link-export', { name, file, advice }, place));
  }
}

/** The uses of an imported name, its import aside. */
function usesOf(record: ModuleRecord, local: string): NameUse[] {
  const imported = record.imports.get(local)!;
  return (record.uses.topLevel.get(local) ?? []).filter(({ start }) => start < imported.start || start >= imported.end);
}
