import type { StepContext } from '../../assets/context.js';
import { diagnostic, nearestWord } from '../../diagnostics/index.js';
import { usesOf } from '../../languages/js/link/bundle.js';
import { namespaceNames, resolveImport } from '../../languages/js/link/exports.js';
import type { LinkedModule } from '../../languages/js/link/graph.js';
import type { ImportedName } from '../../languages/js/link/record.js';
import type { ModuleLoader } from './module-loader.js';

/** Reports imports and exports of names that do not exist, and assignments to imports. */
export function checkImports(loader: ModuleLoader, context: StepContext): void {
  for (const module of loader.modules.values()) {
    const { record } = module;
    if (record.format !== 'module') continue;
    const exported = [...record.exports.values()].filter((one): one is ImportedName => !('local' in one));
    const used = [...record.imports.values(), ...exported];
    for (const one of new Set(used)) checkName(loader, module, one);
    for (const local of record.imports.keys())
      for (const { start, end, isWrite } of usesOf(record, local))
        if (isWrite) context.report(diagnostic('link-assignment', { name: local }, loader.place(module, start, end)));
  }
}

function checkName(loader: ModuleLoader, module: LinkedModule, imported: ImportedName): void {
  const target = module.target(imported.request);
  const resolved = resolveImport(target, imported.name);
  if (typeof resolved !== 'string' || typeof target === 'string') return;
  const { name, start, end } = imported;
  const place = loader.place(module, start, end);
  const file = target.path;
  if (resolved === 'ambiguous') loader.fail(diagnostic('link-ambiguous', { name, file }, place));
  else loader.fail(diagnostic('link-export', { name, file, near: nearestWord(name, namespaceNames(target)) }, place));
}
