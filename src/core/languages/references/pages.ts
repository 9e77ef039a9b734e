import { parse, type DefaultTreeAdapterTypes as Tree } from 'parse5';
import { moved, type FileReferences, type Reference, type ReferenceUse } from './reference.js';
import { scriptReferences } from './scripts.js';
import { styleReferences } from './styles.js';

/** Attributes that hold one URL, by element (HTML, index of attributes; SVG 2, linking). */
const urlAttributes: Readonly<Record<string, readonly string[]>> = {
  script: ['src'],
  img: ['src'],
  source: ['src'],
  video: ['src', 'poster'],
  audio: ['src'],
  track: ['src'],
  embed: ['src'],
  iframe: ['src'],
  object: ['data'],
  input: ['src'],
  image: ['href'],
  use: ['href'],
};

/** Links that load something, by their `rel`; others only name it. */
const loadingLinks = /^(stylesheet|icon|apple-touch-icon|mask-icon|manifest|preload|modulepreload|prefetch)$/i;

/** The URLs in a page, and the definitions of its import maps (HTML, sections 4.2 to 4.12). */
export function pageReferences(html: string): FileReferences {
  const collector = new PageCollector();
  collector.visit(parse(html, { sourceCodeLocationInfo: true }));
  return collector.result();
}

class PageCollector {
  readonly #references: Reference[] = [];
  readonly #importMap: string[] = [];
  #base: string | undefined;

  result(): FileReferences {
    const references =
      this.#base === undefined ? this.#references : this.#references.flatMap((one) => this.#based(one));
    return { references, ...(this.#importMap.length > 0 && { importMap: this.#importMap }) };
  }

  visit(root: Tree.ParentNode): void {
    const open: Tree.Node[] = [root];
    for (let node = open.pop(); node; node = open.pop()) {
      if ('tagName' in node) this.#element(node);
      if ('childNodes' in node) open.push(...node.childNodes.toReversed());
      if ('content' in node) open.push(node.content);
    }
  }

  #element(node: Tree.Element): void {
    const { tagName: name } = node;
    if (name === 'base') this.#base ??= valueOf(node, 'href');
    if (name === 'link') this.#link(node);
    else if (name === 'a' || name === 'area') this.#add(node, 'href', 'page');
    else for (const attribute of urlAttributes[name] ?? []) this.#add(node, attribute, 'file');
    if (name === 'img' || name === 'source') this.#addSet(node, 'srcset');
    this.#addStyles(valueOf(node, 'style'), startOf(node, 'style'));
    const text = node.childNodes.find((child): child is Tree.TextNode => child.nodeName === '#text');
    const start = text?.sourceCodeLocation?.startOffset;
    if (!text || start === undefined) return;
    if (name === 'style') this.#addStyles(text.value, start);
    else if (name === 'script' && valueOf(node, 'src') === undefined) this.#script(node, text.value, start);
  }

  #link(node: Tree.Element): void {
    if (!(valueOf(node, 'rel') ?? '').split(/\s+/).some((one) => loadingLinks.test(one))) return;
    this.#add(node, 'href', 'file');
    this.#addSet(node, 'imagesrcset');
  }

  #script(node: Tree.Element, text: string, start: number): void {
    const type = valueOf(node, 'type')?.trim().toLowerCase();
    if (type === 'importmap') this.#readImportMap(text, start);
    else if (type === 'module') this.#references.push(...moved(scriptReferences(text).references, start));
  }

  #readImportMap(text: string, start: number): void {
    let map: { imports?: unknown };
    try {
      map = JSON.parse(text) as typeof map;
    } catch {
      return;
    }
    const { imports } = map;
    if (typeof imports !== 'object' || imports === null) return;
    for (const [name, url] of Object.entries(imports)) {
      this.#importMap.push(name);
      const at = text.indexOf(JSON.stringify(url));
      if (typeof url === 'string' && !url.endsWith('/') && at >= 0)
        this.#references.push({ use: 'file', url, start: start + at, end: start + at + url.length + 2 });
    }
  }

  #add(node: Tree.Element, attribute: string, use: ReferenceUse): void {
    const url = valueOf(node, attribute);
    const place = placeOf(node, attribute);
    if (url !== undefined && place) this.#references.push({ use, url, ...place });
  }

  /** The candidates of a `srcset` (HTML, section 4.8.4.3): URLs, each with a descriptor after white space. */
  #addSet(node: Tree.Element, attribute: string): void {
    const place = placeOf(node, attribute);
    if (!place) return;
    const urls = (valueOf(node, attribute) ?? '').match(/[^\s,]\S*[^\s,](?=\s|,|$)|[^\s,](?=\s|,|$)/g) ?? [];
    for (const url of urls) if (!/^[\d.]+[wxh]$/.test(url)) this.#references.push({ use: 'file', url, ...place });
  }

  #addStyles(text: string | undefined, start: number | undefined): void {
    if (text === undefined || start === undefined || !/url|@import|image-set|src\(/i.test(text)) return;
    this.#references.push(...moved(styleReferences(text), start));
  }

  /** A reference of a page whose `base` moves it; undefined where it leads to another server. */
  #based(one: Reference): Reference[] {
    const here = 'http://page.invalid/';
    if (!URL.canParse(this.#base!, here)) return [one];
    const base = new URL(this.#base!, here);
    if (base.origin !== 'http://page.invalid') return [];
    if (one.url.startsWith('/') || !this.#base!.includes('/')) return [one];
    const folder = this.#base!.replace(/[^/]*$/, '');
    return [{ ...one, url: folder + one.url }];
  }
}

function valueOf(node: Tree.Element, name: string): string | undefined {
  return node.attrs.find((one) => one.name === name)?.value;
}

function placeOf(node: Tree.Element, attribute: string): { start: number; end: number } | undefined {
  const { attrs = {} } = node.sourceCodeLocation ?? {};
  const place = attrs[attribute] ?? attrs[`xlink:${attribute}`];
  return place && { start: place.startOffset, end: place.endOffset };
}

function startOf(node: Tree.Element, attribute: string): number | undefined {
  const place = placeOf(node, attribute);
  // Behind the name, the sign of equality, and a quote.
  return place && place.start + attribute.length + 2;
}
