import { posix } from 'node:path';
import type { StepContext } from '../assets/context.js';
import { ProjectDocument } from '../config/document.js';
import { diagnostic, DiagnosticError, fail } from '../diagnostics/index.js';
import { decodeText } from '../files/text.js';
import { extensionOf } from '../languages/formats.js';
import { jsonErrorOf } from '../languages/json-error.js';
import type { Variables } from './template.js';

/** Variables that templates have besides those of data files. */
export const ownVariables: ReadonlySet<string> = new Set(['page', 'entry', 'content', 'profile', 'url']);

/**
 * The data files that globs match, each as a variable with the name of the file. A file is read when its variable is used
 * first, so that pages only depend on those that they use.
 *
 * @throws DiagnosticError if a name is not available; reading a variable throws if its file is invalid
 */
export function dataVariables(globs: readonly string[], context: StepContext): Variables {
  const files = new Map<string, string>();
  for (const path of new Set(globs.flatMap((glob) => context.list(glob)))) {
    if (!['yaml', 'yml', 'json'].includes(extensionOf(path))) fail('data-format', { path }, { file: path });
    const { name } = posix.parse(path);
    if (ownVariables.has(name)) fail('data-name', { name, path, other: undefined }, { file: path });
    const other = files.get(name);
    if (other !== undefined) fail('data-name', { name, path, other }, { file: path });
    files.set(name, path);
  }
  const variables: Record<string, unknown> = {};
  for (const [name, path] of files) {
    let value: { readonly of: unknown } | undefined;
    Object.defineProperty(variables, name, {
      enumerable: true,
      get: () => (value ??= { of: readData(path, context) }).of,
    });
  }
  return variables;
}

function readData(path: string, context: StepContext): unknown {
  const text = decodeText(context.read(path) ?? new Uint8Array(), path);
  if (extensionOf(path) !== 'json') return ProjectDocument.parse(path, text).value();
  try {
    return JSON.parse(text) as unknown;
  } catch (error) {
    const { reason, offset } = jsonErrorOf(text, error);
    const place = { file: path, text, offsets: [offset, offset + 1] as const };
    throw new DiagnosticError(diagnostic('data-json', { message: reason }, place));
  }
}
