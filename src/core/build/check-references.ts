import { builtinModules } from 'node:module';
import { posix } from 'node:path';
import {
  diagnostic,
  nearestWord,
  suggestion,
  type Code,
  type Diagnostic,
  type Parameters,
  type Place,
} from '../diagnostics/index.js';
import {
  localPath,
  targetPath,
  targetPaths,
  type FileReferences,
  type Reference,
} from '../languages/references/index.js';
import type { Site } from './site.js';

/** A reference that leads nowhere, or to something that it cannot lead to. */
export interface Finding {
  readonly start: number;
  readonly end: number;
  /** Creates the diagnostic, located in the source if possible. */
  readonly describe: (place: Place) => Diagnostic;
}

/** The findings in a file. */
export interface CheckedFile {
  readonly findings: readonly Finding[];
  /** Paths of missing files that were looked up and that no pipeline writes. */
  readonly consulted: readonly string[];
}

/** Attributes by the extension of the file that an import names (HTML, "fetch a single module script"). */
const typesByExtension: Readonly<Record<string, string>> = { '.json': 'json', '.css': 'css' };

/**
 * Checks the references of a file of the site.
 *
 * @param path its output, relative to the project
 * @param isCopy true for third-party files that are only copied: errors are reduced to warnings
 */
export function checkReferences(path: string, references: FileReferences, isCopy: boolean, site: Site): CheckedFile {
  const check = new Check(path, isCopy, site);
  check.syntax(references);
  for (const one of references.references) check.reference(one);
  if (references.preservedSpace && site.hasCollapsedPages) check.preservedSpace(references.preservedSpace);
  return check;
}

class Check implements CheckedFile {
  readonly findings: Finding[] = [];
  readonly consulted: string[] = [];

  constructor(
    private readonly path: string,
    private readonly isCopy: boolean,
    private readonly site: Site,
  ) {}

  /** Checks what a script itself is. */
  syntax({ conflict, invalid, newer }: FileReferences): void {
    const at = ({ start }: { readonly start: number }): Pick<Reference, 'start' | 'end'> => ({ start, end: start + 1 });
    if (conflict) this.#found(conflict, 'merge-conflict', conflict);
    if (invalid)
      this.#found(at(invalid), 'script-invalid', { output: this.path, reason: invalid.message }, this.isCopy);
    if (newer) this.#found(at(newer), 'script-newer', { what: newer.what, year: newer.year });
  }

  reference(one: Reference): void {
    if (one.inline?.kind === 'script' || one.inline?.kind === 'module') this.#loaded(one, one.inline.kind);
    if (one.isOptional) return;
    if (one.use === 'import') this.#import(one);
    else if (one.use === 'require') this.#found(one, 'script-require', { name: one.url }, this.isCopy);
    else if (one.use !== 'endpoint') this.#file(one);
  }

  /** Checks that a page loads a script as what it is. */
  #loaded(one: Reference, kind: 'script' | 'module'): void {
    const target = this.#target(one.url);
    const offer = target === undefined ? undefined : this.site.offerOf(target);
    if (!offer) return;
    if (kind === 'script' && offer.exports && !/\.json$/.test(target!))
      this.#found(one, 'script-is-module', { url: one.url });
    else if (kind === 'module' && offer.notModule)
      this.#found(one, 'module-is-script', { url: one.url, reason: offer.notModule.message });
  }

  /** Reports a style sheet that shows white space as it is written, which is no longer in pages. */
  preservedSpace(range: Pick<Reference, 'start' | 'end'>): void {
    this.#found(range, 'white-space-shown', {});
  }

  #import(one: Reference): void {
    const { url } = one;
    if (!/^(\.{0,2}\/|[a-z][a-z0-9+.-]*:)/i.test(url)) return this.#bareImport(one);
    if (/^node:/.test(url))
      return this.site.isMapped(url) ? undefined : this.#found(one, 'import-builtin', { name: url }, this.isCopy);
    const target = this.#target(url);
    if (target === undefined) return;
    if (!this.#isThere(target)) {
      const near = this.#nearest(target, ['.js', '.mjs'], './');
      return this.#found(one, 'import-missing', { url, path: target, near });
    }
    const type = typesByExtension[posix.extname(target).toLowerCase()];
    if (type !== undefined && one.type === undefined) return this.#found(one, 'import-type', { url, type });
    this.#names(one, target);
  }

  #bareImport(one: Reference): void {
    const name = one.url;
    if (this.site.isMapped(name)) return;
    const isBuiltin = builtinModules.includes(name.replace(/\/.*$/, ''));
    this.#found(one, isBuiltin ? 'import-builtin' : 'import-bare', { name }, this.isCopy);
  }

  #names(one: Reference, target: string): void {
    for (const { name, start, end } of one.names ?? [])
      if (isExported(target, name, this.site, new Set()) === false) {
        const exported = [...(exportsOf(target, this.site, new Set()) ?? [])].filter((other) => other !== name);
        const parameters = { name, url: one.url, suggestion: suggestion(name, exported, 'exports') };
        this.#found({ start, end }, 'import-name', parameters);
      }
  }

  #file(one: Reference): void {
    const wanted = targetPaths(one, this.path, this.site.settings);
    if (wanted.length === 0 || this.#isIgnored(one) || wanted.some((path) => this.#isThere(path))) return;
    const near = this.#nearest(wanted[0]!, [], one.url.startsWith('./') ? './' : '');
    this.#found(one, 'reference-missing', { url: one.url, path: wanted[0]!, near });
  }

  /** Reports whether the server responds to a URL without a file. */
  #isIgnored({ use, url }: Reference): boolean {
    const { proxies, hasFallback } = this.site.settings;
    return (use === 'page' && hasFallback) || proxies.some((prefix) => url.startsWith(prefix));
  }

  #target(url: string): string | undefined {
    return targetPath(url, this.path, this.site.settings);
  }

  #isThere(path: string): boolean {
    if (this.site.isOutput(path)) return true;
    this.consulted.push(path);
    return this.site.isOnDisk(path);
  }

  /**
   * Suggests a URL of an existing output.
   *
   * @param extensions extensions that may be missing in the URL
   * @param start the beginning of URLs that do not lead upwards
   */
  #nearest(path: string, extensions: readonly string[], start: string): string | undefined {
    const { sameName, inFolder } = this.site.candidatesFor(path);
    const withExtension = extensions.map((extension) => path + extension).find((one) => this.site.isOutput(one));
    const near = withExtension ?? sameName[0] ?? nearestWord(path, inFolder);
    if (near === undefined) return undefined;
    const url = posix.relative(posix.dirname(this.path), near);
    return url.startsWith('../') ? url : start + url;
  }

  #found<C extends Code>(
    { start, end }: Pick<Reference, 'start' | 'end'>,
    code: C,
    parameters: Parameters<C>,
    isWarning = false,
  ): void {
    const describe = (place: Place): Diagnostic => {
      const one = diagnostic(code, parameters, place);
      return isWarning ? { ...one, severity: 'warning' } : one;
    };
    this.findings.push({ start, end, describe });
  }
}

/**
 * Reports whether a name that a module exports resolves to something (ECMA-262, section 16.2.1.6.3, "ResolveExport"): names
 * that modules only pass on to each other do not.
 *
 * @param open the names that are being resolved, with their modules
 * @returns undefined if that is unknown
 */
function isExported(path: string, name: string, site: Site, open: Set<string>): boolean | undefined {
  const offer = site.offerOf(path);
  if (!offer?.exports) return undefined;
  const key = `${path}\0${name}`;
  if (open.has(key)) return false;
  open.add(key);
  const [specifier, passed] = offer.passedOn?.[name] ?? [];
  if (specifier !== undefined) {
    const target = moduleAt(specifier, path);
    if (target === undefined || passed === '*') return passed === '*' ? true : undefined;
    return isExported(target, passed!, site, open);
  }
  if (offer.exports.includes(name)) return true;
  if (name === 'default') return false;
  const found = (offer.stars ?? []).map((star) => {
    const target = moduleAt(star, path);
    return target === undefined ? undefined : isExported(target, name, site, open);
  });
  return found.includes(true) ? true : found.includes(undefined) ? undefined : false;
}

/** The path of the module that a relative specifier leads to; undefined for others. */
function moduleAt(specifier: string, from: string): string | undefined {
  const local = /^\.{1,2}\//.test(specifier) ? localPath(specifier) : undefined;
  return local && posix.join(posix.dirname(from), local);
}

/**
 * The names that a module exports (ECMA-262, section 16.2.1.6.2, "GetExportedNames").
 *
 * @returns undefined if some of them are unknown
 */
function exportsOf(path: string, site: Site, open: Set<string>): ReadonlySet<string> | undefined {
  const offer = site.offerOf(path);
  if (!offer?.exports || open.has(path)) return open.has(path) ? new Set() : undefined;
  open.add(path);
  const names = new Set(offer.exports);
  for (const star of offer.stars ?? []) {
    const target = moduleAt(star, path);
    const others = target && exportsOf(target, site, open);
    if (!others) return undefined;
    for (const name of others) if (name !== 'default') names.add(name);
  }
  return names;
}
