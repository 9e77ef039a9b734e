import { posix } from 'node:path';
import { formatOf } from '../languages/formats.js';
import type { FolderView } from './folder-view.js';

/** Usual names of folders of layouts, and of parts. */
const folderNames = {
  layouts: ['layouts', '_layouts', 'templates'],
  parts: ['parts', '_parts', 'partials', '_partials', 'includes', '_includes'],
} as const;

/** Signs of Liquid templates: front matter, tags, and variables. */
const templateSigns = /^---\r?\n[^]*?\n---\r?$|\{%-?\s*\w+|\{\{-?\s*(?:content|page\.)/m;

/** The address of a file, from the top of the site. */
const urlFilter = /\{\{-?\s*(['"])([^'"]+)\1\s*\|\s*url\s*-?\}\}/g;

/** What templates name: parts, and layouts. */
const namedParts = /\{%-?\s*(?:render|include|layout)\s+['"]([^'"]+)['"]/g;
const namedLayout = /^layout:\s*['"]?([\w./-]+)/m;

/** The templates of a site: where layouts and parts are, and how to read a page with them. */
export class Templates {
  /** The folders of layouts and of parts, as far as there are some. */
  readonly layouts: string | undefined;
  readonly parts: string | undefined;

  constructor(private readonly view: FolderView) {
    this.layouts = this.#folder(folderNames.layouts);
    this.parts = this.#folder(folderNames.parts);
  }

  /** Reports whether a page has to be rendered. */
  isTemplate(path: string): boolean {
    return formatOf(path)?.kind === 'page' && templateSigns.test(this.view.read(path));
  }

  /** Reports whether a file is used by templates, and is no page itself. */
  isUsed(path: string): boolean {
    const folders = [this.layouts, this.parts];
    const isRendered = folders.some((folder) => folder !== undefined);
    const isData = /^data\/[^/]+\.(ya?ml|json)$/.test(path);
    return folders.some((folder) => folder !== undefined && path.startsWith(`${folder}/`)) || (isRendered && isData);
  }

  /** The text of a page with everything that it is rendered with. */
  textOf(path: string, seen = new Set<string>()): string {
    const rendered = this.view.rendered?.get(path);
    if (rendered !== undefined) return rendered;
    const text = this.view.read(path);
    if (seen.has(path)) return '';
    seen.add(path);
    const names = [...text.matchAll(namedParts)].map(([, name]) => name!);
    const layout = namedLayout.exec(text)?.[1];
    const files = [
      ...names.map((name) => [this.parts, name] as const),
      ...(layout === undefined ? [] : [[this.layouts, layout] as const]),
    ];
    const more = files.flatMap(([folder, name]) => (folder === undefined ? [] : (this.#file(folder, name) ?? [])));
    const body = text.replace(/^---\r?\n[^]*?\n---\r?\n/, '').replace(urlFilter, '/$2');
    return [body, ...more.map((one) => this.textOf(one, seen))].join('\n');
  }

  #file(folder: string, name: string): string | undefined {
    const base = posix.join(folder, name);
    return [base, `${base}.html`, `${base}.liquid`].find((path) => this.view.files.includes(path));
  }

  #folder(names: readonly string[]): string | undefined {
    for (const file of this.view.files) {
      const parts = file.split('/').slice(0, -1);
      const at = parts.findIndex((part) => names.includes(part));
      if (at >= 0 && at < 2 && formatOf(file)?.kind === 'page') return parts.slice(0, at + 1).join('/');
    }
    return undefined;
  }
}
