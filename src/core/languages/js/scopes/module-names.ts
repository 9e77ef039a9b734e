import type { Program } from 'acorn';
import { bindingOf } from './binding.js';

/** The number of characters of ` as ` and the short name next to it. */
const costOfAs = 5;

/**
 * Keeps the names of imports and exports if renaming would not be shorter, because it requires both names.
 *
 * @param program with current counts
 */
export function keepModuleNames({ body }: Program): void {
  for (const node of body) {
    const specifiers =
      node.type === 'ImportDeclaration' || node.type === 'ExportNamedDeclaration' ? node.specifiers : [];
    for (const one of specifiers) {
      const outside =
        one.type === 'ImportSpecifier' ? one.imported : one.type === 'ExportSpecifier' ? one.exported : undefined;
      if (outside?.type !== 'Identifier' || one.local.type !== 'Identifier' || outside.name !== one.local.name)
        continue;
      const binding = bindingOf(one.local);
      if (!binding) continue;
      const { name, declarations, reads, writes } = binding;
      const uses = declarations + reads + writes - 1;
      if ((name.length - 1) * uses <= costOfAs) binding.isFixed = true;
    }
  }
}
