import type { StepContext } from '../../assets/context.js';
import { nearestWord } from '../../diagnostics/index.js';
import { decodeText } from '../../files/text.js';
import { extensionOf } from '../../languages/formats.js';
import { namespaceNames } from '../../languages/js/link/exports.js';
import type { LinkedModule } from '../../languages/js/link/graph.js';

/**
 * What to do about an import of a name that a module does not export.
 *
 * @param specifier of the module, as the import names it
 */
export function exportAdvice(name: string, specifier: string, target: LinkedModule, context: StepContext): string {
  const names = namespaceNames(target).filter((one) => one !== 'default');
  const quotedPath = `'${specifier}'`;
  if (name !== 'default' && isType(name, target, context))
    return `It is a type: write \`import type { ${name} } from ${quotedPath}\`.`;
  const { record } = target;
  if (record.format === 'commonjs' && name !== 'default')
    return `The names of this CommonJS module are only known when it runs: write \`import all from ${quotedPath}\`, and \`all.${name}\`.`;
  const hasDefault = namespaceNames(target).includes('default');
  const near = name === 'default' ? undefined : nearestWord(name, names);
  if (near !== undefined) return `Did you mean \`${near}\`?`;
  if (name === 'default' && names.length > 0) {
    const some = names.slice(0, 4).join(', ');
    return `It has no default export; write \`import { ${some} } from ${quotedPath}\`, or \`import * as all from ${quotedPath}\`.`;
  }
  if (hasDefault && names.length === 0)
    return `It has a default export only: write \`import ${name} from ${quotedPath}\`.`;
  return 'Check the name, or export it there.';
}

/** Reports whether a TypeScript source declares a name as a type; types leave nothing behind. */
function isType(name: string, { path }: LinkedModule, context: StepContext): boolean {
  if (!/^[cm]?tsx?$/.test(extensionOf(path)) || !/^[\w$]+$/.test(name)) return false;
  const bytes = context.read(path);
  const escaped = name.replaceAll('$', '\\$');
  const declared = new RegExp(
    `\\b(interface|type|declare\\s+\\w+)\\s+${escaped}\\b|\\bexport\\s+type\\s*\\{[^}]*\\b${escaped}\\b|\\btype\\s+${escaped}\\s*[,}]`,
  );
  return bytes !== undefined && declared.test(decodeText(bytes, path));
}
