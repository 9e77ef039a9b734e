import { posix } from 'node:path';
import type { StepContext } from '../../assets/context.js';
import { fail } from '../../diagnostics/index.js';
import { contentHash } from '../../files/hash.js';
import { packageFolder } from '../../files/package-folder.js';
import { decodeText } from '../../files/text.js';
import { analyseCommonJs } from '../../languages/js/link/commonjs.js';
import { analyseModule, type ModuleRequest } from '../../languages/js/link/record.js';
import { parseScript, ScriptSyntaxError } from '../../languages/js/parse.js';
import { emptyMap } from '../../languages/source-maps/index.js';

/**
 * The hashes of a module of the project and of everything that it imports or requires by a constant name, by path; those of
 * package.json for packages. Reading them makes them part of the trace.
 *
 * @throws DiagnosticError if a module does not exist, or has a syntax error
 */
export function moduleContents(
  path: string,
  context: StepContext,
  seen = new Map<string, string>(),
): ReadonlyMap<string, string> {
  if (seen.has(path)) return seen;
  const bytes = context.read(path);
  if (!bytes) fail('apply-missing', { module: path }, { file: path });
  seen.set(path, contentHash(bytes));
  if (!/\.[cm]?js$/.test(path)) return seen;
  for (const specifier of requestsIn(path, decodeText(bytes, path))) {
    if (/^\.{0,2}\//.test(specifier)) {
      const target = context.resolve(specifier, path, { kind: 'require' });
      if (typeof target === 'string') moduleContents(target, context, seen);
    } else if (!/^[a-z]+:|^#/.test(specifier)) {
      const name = /^(@[^/]+\/)?[^/]+/.exec(specifier)![0];
      const folder = packageFolder(name, posix.dirname(path), (file) => context.exists(file));
      const manifest = folder && posix.join(folder, 'package.json');
      const found = manifest && context.read(manifest);
      if (found) seen.set(manifest, contentHash(found));
    }
  }
  return seen;
}

/** The specifiers that a module imports or requires. */
function requestsIn(path: string, text: string): string[] {
  const from = { text, map: emptyMap };
  try {
    const { program, comments, isModule } = parseScript(text, path.endsWith('.mjs') ? true : undefined);
    const { dynamicRequests, ...record } = isModule
      ? analyseModule(program, from, comments)
      : analyseCommonJs(from, {});
    const requests: readonly ModuleRequest[] = 'requires' in record ? record.requires : record.requests;
    return [...requests, ...dynamicRequests].map(({ specifier }) => specifier);
  } catch (error) {
    if (!(error instanceof ScriptSyntaxError)) throw error;
    // Node.js does not tell the place.
    const { message, offset } = error;
    return fail('apply-failed', { module: path, message }, { file: path, text, offsets: [offset, offset + 1] });
  }
}
