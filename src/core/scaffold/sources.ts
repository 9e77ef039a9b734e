import { posix } from 'node:path';
import { extensionOf, withExtension } from '../assets/kind.js';

/** What becomes of files of a kind. */
export type SourceKind = 'styles' | 'scripts' | 'pages' | 'files';

const kinds: Readonly<Record<string, SourceKind>> = Object.fromEntries([
  ...['scss', 'sass', 'css'].map((one) => [one, 'styles']),
  ...['ts', 'tsx', 'mts', 'jsx', 'js', 'mjs'].map((one) => [one, 'scripts']),
  ...['html', 'htm'].map((one) => [one, 'pages']),
]) as Record<string, SourceKind>;

/** Extensions that compiling changes, with what they become. */
const compiled: Readonly<Record<string, string>> = {
  scss: 'css',
  sass: 'css',
  ts: 'js',
  tsx: 'js',
  jsx: 'js',
  mts: 'mjs',
};

/** The kind of a file, by its extension. */
export function sourceKindOf(path: string): SourceKind {
  return kinds[extensionOf(path)] ?? 'files';
}

/** The name of a file after compiling. */
export function afterCompiling(path: string): string {
  const extension = compiled[extensionOf(path)];
  return extension === undefined ? path : withExtension(path, extension);
}

/** Names that compile to this one, or are this one: the sources that a page may mean by it. */
export function beforeCompiling(path: string): string[] {
  const extension = extensionOf(path);
  const sources = Object.keys(compiled).filter((one) => compiled[one] === extension);
  return [...sources.map((one) => withExtension(path, one)), path];
}

/** Files that set tools up, and tests: no part of a site. */
export function isForTools(path: string): boolean {
  return /\.(config|conf|test|spec|stories)\.[cm]?[jt]sx?$/.test(path) || /\.d\.[cm]?ts$/.test(path);
}

/** Scripts that somebody else wrote: they are not compiled. */
export function isVendored(path: string): boolean {
  return /(^|\/)(vendor|vendors|third-party|thirdparty|node_modules)\//.test(path) || /\.min\.[cm]?js$/.test(path);
}

/** The longest folder that all files lie in; `.` for the top. */
export function commonFolder(files: readonly string[]): string {
  const [first, ...rest] = files.map((path) => posix.dirname(path).split('/'));
  if (!first) return '.';
  let length = first.length;
  for (const parts of rest)
    while (length > 0 && parts.slice(0, length).join('/') !== first.slice(0, length).join('/')) length--;
  return first.slice(0, length).join('/') || '.';
}
