import { posix } from 'node:path';
import type { MergeConflict } from '../../files/merge-conflict.js';
import type { NewerSyntax } from '../js/syntax/newer.js';

/** The purpose of a reference, which determines its allowed targets. */
export type ReferenceUse =
  /** A module that is loaded before the one that names it, or by `import()`. */
  | 'import'
  /** A module by the name of a package or of anything else that is no URL. */
  | 'require'
  /** A file: a picture, a sheet, a script, a font. */
  | 'file'
  /** A page that a link leads to. */
  | 'page'
  /** What receives data: a form's action. It need not be a file of the site. */
  | 'endpoint';

/** A URL in a file. */
export interface Reference {
  readonly use: ReferenceUse;
  /** The URL as browsers read it, with escapes decoded. */
  readonly url: string;
  /** The range in the text: 0-based offsets. */
  readonly start: number;
  readonly end: number;
  /** The names that an import takes from the module, with their positions. */
  readonly names?: readonly ImportedName[];
  /** The `type` among the attributes of an import. */
  readonly type?: string;
  /** The URL as it is written, where the `base` of a page changes what it means. */
  readonly written?: string;
  /** True if nothing requires the file to exist, such as the source map that a comment names. */
  readonly isOptional?: true;
  /** True if the file, or all files in the folder, have to keep their addresses, such as a service worker. */
  readonly keepsAddress?: true;
  /** The offset for an `integrity` attribute; undefined where there can be none, or is one. */
  readonly integrityAt?: number;
  /** For a reference in a page that is the value of an attribute: the number of such attributes around it. */
  readonly nesting?: number;
  /** Where the content of the file can be written instead. */
  readonly inline?: InlinePlace;
  /** Where a page can offer variants of the picture. */
  readonly image?: ImagePlace;
}

/** A place at which the content of a file can be written instead of its URL. */
export interface InlinePlace {
  readonly kind: 'picture' | 'style' | 'script' | 'module';
  /** The range to replace: that of the URL for a picture, of the whole element for others. */
  readonly start: number;
  readonly end: number;
  /** The start tag of the element that holds the content. */
  readonly tag?: string;
  /** True if the page asks for it, whatever the size of the file. */
  readonly isAsked?: true;
  /** True if the content would mean something else there, or the page does not allow it. */
  readonly isImpossible?: true;
}

/** An element of a page that shows one picture, or loads it beforehand, and that can offer variants of it instead. */
export interface ImagePlace {
  readonly kind: 'img' | 'preload';
  /** The offset after the attribute with the URL. */
  readonly at: number;
  /** The range of the element. */
  readonly start: number;
  readonly end: number;
  /** Its `sizes` as written, if it has some. */
  readonly sizes?: string;
  /** Its `width` in CSS pixels, if it has one. */
  readonly width?: number;
  /** True if it is in a `picture` element. */
  readonly isInPicture?: true;
  /** True if the page may not allow an element around it to have a style. */
  readonly isUnstyled?: true;
}

/** A text in a script that may be a URL. */
export type UrlText = Pick<Reference, 'url' | 'start' | 'end'>;

/** A name that is imported. */
export interface ImportedName {
  readonly name: string;
  readonly start: number;
  readonly end: number;
}

/** A syntax error: its message and 0-based offset. */
export interface SyntaxProblem {
  readonly message: string;
  readonly start: number;
}

/** What is looked for in a file, besides what a browser loads. */
export interface Search {
  /** True to search also for what only matters where files are renamed. */
  readonly isThorough: boolean;
  /** For files that are checked before they are published: the browsers that have to know their syntax. */
  readonly checkedFor?: readonly string[] | undefined;
}

/** The references of a file, and the names that others may refer to. */
export interface FileReferences {
  readonly references: readonly Reference[];
  /** The names that a module itself exports; undefined for files that are not modules. */
  readonly exports?: readonly string[];
  /** The modules whose names it exports as well. */
  readonly stars?: readonly string[];
  /** Exports that are names of other modules: the specifier, and the name there; `*` is the namespace. */
  readonly passedOn?: Readonly<Record<string, readonly [specifier: string, name: string]>>;
  /** The first merge conflict in a file. */
  readonly conflict?: MergeConflict;
  /** Why a script cannot be parsed. */
  readonly invalid?: SyntaxProblem;
  /** Why a script cannot be parsed as a module; only searched for where outputs are checked. */
  readonly notModule?: SyntaxProblem;
  /** The first syntax of a script that target browsers do not know; only searched for where outputs are checked. */
  readonly newer?: NewerSyntax;
  /** The names that import maps of a page define. */
  readonly importMap?: readonly string[];
  /** The declaration of a style sheet that shows white space in pages as it is written, if there is one. */
  readonly preservedSpace?: { readonly start: number; readonly end: number };
  /** Texts in scripts that may be URLs; only searched for where files are renamed. */
  readonly texts?: readonly UrlText[];
  /** True if the file could not be searched; only known where files are renamed. */
  readonly isUnsearched?: true;
}

/**
 * Splits a URL for looking a file up.
 *
 * @returns its path, decoded; undefined for a URL with a scheme or host, and for one without a path
 * @example localPath('../a%20b.css?v=1#x') // '../a b.css'
 */
export function localPath(url: string): string | undefined {
  const text = url.trim();
  if (/^[a-z][a-z0-9+.-]*:|^[/\\]{2}/i.test(text)) return undefined;
  const path = text.replace(/[?#].*$/s, '');
  if (path === '') return undefined;
  try {
    return decodeURIComponent(path);
  } catch {
    return undefined;
  }
}

/** The site that references are in. */
export interface SiteFolder {
  /** The folder that URLs beginning with `/` are relative to, if it is known. */
  readonly folder?: string | undefined;
}

/**
 * Resolves a URL to the path of a file, relative to the project; undefined if unknown or not in this site.
 *
 * @param from the file that contains the URL
 */
export function targetPath(url: string, from: string, { folder }: SiteFolder): string | undefined {
  const path = localPath(url);
  if (path === undefined) return undefined;
  if (path.startsWith('/')) return folder === undefined ? undefined : posix.join(folder, path);
  return posix.join(posix.dirname(from), path);
}

/** The paths of pages that servers answer with for a link. */
export function pagesFor(path: string): string[] {
  if (path.endsWith('/') || path === '.' || path === '') return [posix.join(path, 'index.html')];
  return posix.extname(path) === '' ? [posix.join(path, 'index.html'), path, `${path}.html`] : [path];
}

/**
 * The paths of the files that a reference may lead to, relative to the project: one, or for links those of the pages that
 * servers answer with; none if that is unknown or not in this site.
 *
 * @param from the file that contains it
 */
export function targetPaths({ use, url }: Pick<Reference, 'use' | 'url'>, from: string, site: SiteFolder): string[] {
  const path = targetPath(url, from, site);
  if (path === undefined) return [];
  return use === 'page' ? pagesFor(path) : [path];
}

/** Moves references by an offset. */
export function moved(references: readonly Reference[], by: number): Reference[] {
  return references.map((one) => ({
    ...one,
    start: one.start + by,
    end: one.end + by,
    ...(one.inline && { inline: { ...one.inline, start: one.inline.start + by, end: one.inline.end + by } }),
    ...(one.names && { names: one.names.map((name) => ({ ...name, start: name.start + by, end: name.end + by })) }),
  }));
}

/**
 * The reference to a source map in a comment (ECMA-426, section 11.1.2.2).
 *
 * @param comment with its delimiters
 * @param start its offset in the text
 */
export function mapReference(comment: string, start: number): Reference | undefined {
  const [whole, before, url] = /^(\/[/*][#@]\s*sourceMappingURL=)(\S+?)\s*(?:\*\/)?$/.exec(comment) ?? [];
  if (whole === undefined || url!.startsWith('data:')) return undefined;
  const from = start + before!.length;
  return { use: 'file', url: url!, start: from, end: from + url!.length, isOptional: true };
}

/** A path with an extension, as the URL of a file. */
const filePath = /^(?:\.{0,2}\/)?(?:[\w@%~+-][\w.@%~+-]*\/)*[\w@%~+-][\w.@%~+-]*\.[a-z]\w{0,10}(?:[?#].*)?$/i;

/** Reports whether a text looks like the URL of a file. */
export const mayBeUrl = (text: string): boolean => text.length < 1000 && filePath.test(text);
