import type { Member } from './name-uses.js';
import type { ModuleRecord, ModuleRequest } from './record.js';
import { namesByStatement, type Statement } from './statements.js';

/** The shapes of modules that have not changed. */
const shapes = new WeakMap<ModuleRecord['statements'], string>();

/**
 * Everything about a module, as a text, that other modules of a bundle depend on where no code is left out: two records of
 * the same shape are linked in the same way. The names of nested scopes and globals are not part of it.
 */
export function shapeOf(record: ModuleRecord): string {
  const known = shapes.get(record.statements);
  if (known !== undefined) return known;
  const shape = JSON.stringify(describe(record));
  shapes.set(record.statements, shape);
  return shape;
}

function describe(record: ModuleRecord): unknown {
  const { requests, dynamicRequests, imports, exports, stars, statements, unnamedDefault, uses } = record;
  const numberOf = (request: ModuleRequest): number => requests.indexOf(request);
  return [
    requests.map(({ specifier, type }) => [specifier, type ?? null]),
    dynamicRequests.map(({ specifier, type, members }) => [specifier, type ?? null, members ?? null]),
    [...imports].map(([local, { request, name }]) => [local, numberOf(request), name]),
    [...exports].map(([name, one]) => ('local' in one ? [name, one.local] : [name, numberOf(one.request), one.name])),
    stars.map(numberOf),
    record.awaits !== undefined,
    effectsOf(statements),
    [...new Set(statements.flatMap(({ declares, changes }) => [...declares, ...changes]))],
    importUses(record),
    // Variables that change cannot be shared everywhere.
    [...uses.topLevel].map(([local, found]) => [local, found.some(({ isWrite }) => isWrite)]),
    [...uses.usesThis],
    uses.urls.map(({ specifier, worker }) => [specifier, worker ?? null]),
    uses.metas.length > 0,
    uses.hasEval,
    [...record.functions],
    [...record.classes.keys()],
    unnamedDefault ? [unnamedDefault.nameAt !== undefined, unnamedDefault.isNamedDefault] : null,
  ];
}

/** The effects of statements: which, if there are only some that depend on other modules. */
const effectsOf = (statements: readonly Statement[]): unknown =>
  statements.every(({ isPure }) => isPure) &&
  statements.map(({ changes, superclass, readsImports }) => [changes.length > 0, superclass ?? null, readsImports]);

/** The ways in which imports are used, in the order in which they are first. */
function importUses({ statements, imports, uses }: ModuleRecord): string[] {
  const found = new Set<string>();
  const memberOf = ({ name, isCalled }: Member): unknown => [name, isCalled];
  const names = namesByStatement(statements, imports, uses);
  for (const statement of statements)
    for (const [local, { isWrite, members }] of names.get(statement) ?? [])
      if (imports.has(local)) found.add(JSON.stringify([local, isWrite, members.map(memberOf)]));
  return [...found];
}
