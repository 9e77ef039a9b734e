import { posix } from 'node:path';
import { nearestWord } from '../../diagnostics/index.js';

/** The input for a suggestion. */
export interface SuggestionRequest {
  /** The message of Sass. */
  readonly message: string;
  /** The stretch of the sheet that it points to. */
  readonly found: string;
  /** The sheet, relative to the project. */
  readonly file: string;
  /** The texts of all sheets that were loaded, by path. */
  readonly sheets: ReadonlyMap<string, string>;
  /** Folders that are searched for sheets, beside that of the sheet. */
  readonly loadPaths: readonly string[];
  /** The files that a glob matches. */
  readonly list: (glob: string) => readonly string[];
}

type Kind = 'variable' | 'mixin' | 'function';

/** Matches comments, strings, and definitions of variables, mixins (also in the indented syntax) and functions. */
const definition =
  /\/\*[^]*?\*\/|\/\/[^\n]*|"(?:\\.|[^"\\\n])*"|'(?:\\.|[^'\\\n])*'|\$(?<variable>[\w-]+)\s*:|(?:@mixin\s+|^=)(?<mixin>[\w-]+)|@function\s+(?<function>[\w-]+)/gm;

/**
 * Suggests a name for an unknown one in Sass: a variable, mixin or function of a loaded sheet, a namespace, or an
 * existing sheet.
 *
 * @returns undefined if no name is similar
 * @example suggestName({ message: 'Undefined variable.', found: 'theme.$nigth', … }) // 'theme.$night'
 */
export function suggestName(request: SuggestionRequest): string | undefined {
  const { message } = request;
  const [, kind] = /^Undefined (variable|mixin|function)/.exec(message) ?? [];
  if (kind !== undefined) return nearestDefinition(kind as Kind, request);
  const [, namespace] = /^There is no module with (?:the )?namespace "([^"]+)"/.exec(message) ?? [];
  if (namespace !== undefined) return nearestWord(namespace, namespacesIn(request.sheets.get(request.file) ?? ''));
  return message.startsWith("Can't find stylesheet") ? nearestSheet(request) : undefined;
}

function nearestDefinition(kind: Kind, { found, sheets }: SuggestionRequest): string | undefined {
  const name = /(?:([\w-]+)\.)?(\$?)([\w-]+)(?=[^\w-]*$|\s*\()/.exec(found.replace(/^@include\s+|\(.*$/gs, ''));
  if (!name) return undefined;
  const [, namespace, sign = '', wanted = ''] = name;
  const prefix = `${namespace === undefined ? '' : `${namespace}.`}${sign}`;
  const isOf = (path: string): boolean => namespaceOf(path) === namespace;
  const all = [...sheets];
  // Names of the sheet that the namespace refers to come first.
  for (const group of [all.filter(([path]) => isOf(path)), all]) {
    const near = nearestWord(
      wanted,
      group.flatMap(([, text]) => definedIn(text, kind)),
    );
    if (near !== undefined && near !== wanted) return prefix + near;
  }
  return undefined;
}

function definedIn(text: string, kind: Kind): string[] {
  return [...text.matchAll(definition)].flatMap(({ groups }) => groups?.[kind] ?? []);
}

function namespacesIn(text: string): string[] {
  return [...text.matchAll(/@use\s+(["'])(.+?)\1(?:\s+as\s+([\w-]+))?/g)].map(
    ([, , url = '', alias]) => alias ?? namespaceOf(url),
  );
}

/** The default namespace of a sheet (Sass specification, the `@use` rule). */
function namespaceOf(url: string): string {
  return posix
    .basename(url)
    .replace(/^_|\..*$/g, '')
    .replace(/^sass:/, '');
}

function nearestSheet({ found, file, loadPaths, list }: SuggestionRequest): string | undefined {
  const path = /(["'])(.*?)\1/.exec(found)?.[2] ?? found;
  if (/^[a-z]+:/i.test(path)) return undefined;
  const folder = posix.dirname(path);
  for (const base of [posix.dirname(file), ...loadPaths]) {
    const inside = posix.join(base, folder);
    if (inside.startsWith('..')) continue;
    const files = list(`${inside === '.' ? '' : `${inside}/`}*.{scss,sass,css}`).filter((one) => one !== file);
    const near = nearestWord(posix.basename(path), files.map(nameOf));
    if (near !== undefined) return posix.join(folder, near);
  }
  return undefined;
}

/** The name by which a sheet is loaded. */
const nameOf = (path: string): string => posix.basename(path).replace(/^_|\.\w+$/g, '');
