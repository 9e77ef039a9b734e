import { posix } from 'node:path';
import { extensionOf, extensionsWhere, formatOf, withExtension } from '../languages/formats.js';

/** The group of pipelines of a file. */
export type SourceKind = 'styles' | 'scripts' | 'pages' | 'files';

/** The kind of a file, by its extension. */
export function sourceKindOf(path: string): SourceKind {
  const kind = formatOf(path)?.kind;
  return kind === 'style' ? 'styles' : kind === 'script' ? 'scripts' : kind === 'page' ? 'pages' : 'files';
}

/** The names of sources that compile to this file, including the file itself. */
export function beforeCompiling(path: string): string[] {
  const extension = extensionOf(path);
  const sources = extensionsWhere(({ compiledTo }) => compiledTo === extension);
  return [...sources.map((one) => withExtension(path, one)), path];
}

/** Configuration files and tests: not part of a site. */
export function isForTools(path: string): boolean {
  return /\.(config|conf|test|spec|stories)\.[cm]?[jt]sx?$/.test(path) || /\.d\.[cm]?ts$/.test(path);
}

/** Third-party scripts, which are not compiled. */
export function isVendored(path: string): boolean {
  return /(^|\/)(vendor|vendors|third-party|thirdparty|node_modules)\//.test(path) || /\.min\.[cm]?js$/.test(path);
}

/** The longest folder that contains all files; `.` for the top. */
export function commonFolder(files: readonly string[]): string {
  const [first, ...rest] = files.map((path) => posix.dirname(path).split('/'));
  if (!first) return '.';
  let length = first.length;
  for (const parts of rest)
    while (length > 0 && parts.slice(0, length).join('/') !== first.slice(0, length).join('/')) length--;
  return first.slice(0, length).join('/') || '.';
}
