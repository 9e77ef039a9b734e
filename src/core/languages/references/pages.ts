import { attributeOf, isElement, nodesOf, parsePage, type Element } from '../html/tree.js';
import { JsonNode } from './json-texts.js';
import { LocatedText } from './located-text.js';
import {
  mayBeUrl,
  moved,
  type FileReferences,
  type ImagePlace,
  type InlinePlace,
  type Reference,
  type ReferenceUse,
  type UrlText,
} from './reference.js';
import { scriptReferences } from './scripts.js';
import { sourceSetUrls } from './source-set.js';
import { styleReferences } from './styles.js';

/** Attributes that hold one URL, by element (HTML, index of attributes, and section 16; SVG 2, linking). */
const urlAttributes: Readonly<Record<string, Readonly<Record<string, ReferenceUse>>>> = {
  a: { href: 'page' },
  area: { href: 'page' },
  iframe: { src: 'page' },
  frame: { src: 'page' },
  form: { action: 'endpoint' },
  button: { formaction: 'endpoint' },
  input: { src: 'file', formaction: 'endpoint' },
  script: { src: 'file', href: 'file' },
  img: { src: 'file' },
  source: { src: 'file' },
  video: { src: 'file', poster: 'file' },
  audio: { src: 'file' },
  track: { src: 'file' },
  embed: { src: 'file' },
  object: { data: 'file' },
  body: { background: 'file' },
  table: { background: 'file' },
  td: { background: 'file' },
  th: { background: 'file' },
  image: { href: 'file' },
  use: { href: 'file' },
  feImage: { href: 'file' },
  mpath: { href: 'file' },
  textPath: { href: 'file' },
};

/** Links that load something, by their `rel`, and links to other pages; others only name something. */
const loadingLinks = /^(stylesheet|icon|apple-touch-icon|mask-icon|manifest|preload|modulepreload|prefetch)$/i;
const pageLinks = /^(alternate|author|help|license|next|prev|privacy-policy|search|terms-of-service)$/i;

/** The properties of `meta` elements whose content is the URL of a file. */
const metaFiles =
  /^(og:(image|video|audio)(:(secure_)?url)?|twitter:(image|player)(:src)?|msapplication-(tileimage|config|(square|wide)\d+x\d+logo)|thumbnail)$/i;

/** The nature of a reference whose target has to keep its address, and need not exist. */
const stays = { isOptional: true, keepsAddress: true } as const;

/** Attributes of links and scripts that belong to their URLs. */
const urlRelated: ReadonlySet<string> = new Set([
  ...['rel', 'href', 'src', 'integrity', 'crossorigin', 'referrerpolicy', 'fetchpriority', 'data-inline', 'defer'],
]);

interface Range {
  readonly start: number;
  readonly end: number;
}

/** The URLs in a page, and the definitions of its import maps (HTML, sections 4.2 to 4.12). */
export function pageReferences(html: string, isThorough = false): FileReferences {
  return referencesIn(html, isThorough, false);
}

/** @param isInner true for a page that is the value of an attribute */
function referencesIn(html: string, isThorough: boolean, isInner: boolean): FileReferences {
  const collector = new PageCollector(html, isThorough, isInner);
  // What is in `noscript` is shown without scripts, and then loaded.
  for (const node of nodesOf(parsePage(html))) if (isElement(node)) collector.element(node);
  return collector.result();
}

class PageCollector {
  readonly #references: Reference[] = [];
  readonly #importMap: string[] = [];
  readonly #texts: UrlText[] = [];
  #base: string | undefined;
  /** True if the page restricts what it loads (Content Security Policy, section 3.3). */
  #hasPolicy = false;

  constructor(
    private readonly html: string,
    private readonly isThorough: boolean,
    private readonly isInner: boolean,
  ) {}

  result(): FileReferences {
    const found = this.#references.map((one) => this.#withPolicy(this.#withPossibleInline(one)));
    const references = this.#base === undefined ? found : found.flatMap((one) => this.#based(one));
    return {
      references,
      ...(this.#importMap.length > 0 && { importMap: this.#importMap }),
      ...(this.#texts.length > 0 && { texts: this.#texts }),
    };
  }

  element(node: Element): void {
    const { tagName: name } = node;
    if (name === 'base') this.#base ??= attributeOf(node, 'href');
    else if (name === 'link') this.#link(node);
    else if (name === 'meta') this.#meta(node);
    const attributes = Object.hasOwn(urlAttributes, name) ? urlAttributes[name]! : {};
    for (const [attribute, use] of Object.entries(attributes)) this.#add(node, attribute, use);
    if (name === 'img' || name === 'source') this.#addSet(node, 'srcset');
    if (name === 'iframe') this.#page(node);
    const style = this.#attribute(node, 'style');
    if (style && mayHoldUrls(style.value))
      for (const one of styleReferences(style.value)) {
        const range = style.range(one.start, one.end);
        this.#references.push({ ...one, ...range, ...(one.inline && { inline: { ...one.inline, ...range } }) });
      }
    if (this.isThorough) this.#addTexts(node);
    if (name !== 'style' && name !== 'script') return;
    const place = node.childNodes.find((child) => child.nodeName === '#text')?.sourceCodeLocation;
    if (!place) return;
    // As it is in the file: the parser normalizes line ends.
    const text = this.html.slice(place.startOffset, place.endOffset);
    if (name === 'script') {
      if (attributeOf(node, 'src') === undefined) this.#script(node, text, place.startOffset);
    } else if (mayHoldUrls(text)) this.#references.push(...moved(styleReferences(text), place.startOffset));
  }

  /** The URLs of a page in an attribute, which are relative to those of this page (HTML, section 4.8.5, "srcdoc"). */
  #page(node: Element): void {
    const page = this.#attribute(node, 'srcdoc');
    if (!page) return;
    const { references, importMap = [], texts = [] } = referencesIn(page.value, this.isThorough, true);
    this.#importMap.push(...importMap);
    this.#texts.push(...texts.map((one) => ({ ...one, ...page.range(one.start, one.end) })));
    for (const { inline, integrityAt, ...one } of references)
      this.#references.push({
        ...one,
        ...page.range(one.start, one.end),
        ...(inline && { inline: inAttribute(inline, page) }),
        ...(integrityAt !== undefined && { integrityAt: page.at(integrityAt) }),
        nesting: (one.nesting ?? 0) + 1,
        ...(one.names && { names: one.names.map((name) => ({ ...name, ...page.range(name.start, name.end) })) }),
      });
  }

  #link(node: Element): void {
    const rels = (attributeOf(node, 'rel') ?? '').split(/\s+/);
    if (rels.some((one) => loadingLinks.test(one))) {
      const isManifest = rels.some((one) => one.toLowerCase() === 'manifest');
      this.#add(node, 'href', 'file', { ...(isManifest && { keepsAddress: true }) });
      this.#addSet(node, 'imagesrcset');
    } else if (rels.some((one) => pageLinks.test(one))) {
      // Readers of feeds come back to the same address.
      const isFeed = /\b(rss|atom|feed)\b/i.test(attributeOf(node, 'type') ?? '');
      this.#add(node, 'href', 'page', { ...(isFeed && { keepsAddress: true }) });
    }
  }

  #meta(node: Element): void {
    const property = attributeOf(node, 'property') ?? attributeOf(node, 'name') ?? '';
    if (metaFiles.test(property)) return this.#add(node, 'content', 'file');
    const directive = attributeOf(node, 'http-equiv')?.toLowerCase();
    if (directive === 'content-security-policy') this.#hasPolicy = true;
    if (directive !== 'refresh') return;
    const content = this.#attribute(node, 'content');
    // A time, and optionally a URL (HTML, "shared declarative refresh steps").
    const found = /^\s*[\d.]+\s*[;,]\s*(?:url\s*=\s*)?(["']?)(.*)$/is.exec(content?.value ?? '');
    if (!content || !found) return;
    const [whole, quote = '', rest = ''] = found;
    const url = quote === '' ? rest.trimEnd() : rest.split(quote)[0]!;
    const at = whole.length - rest.length;
    if (url !== '') this.#references.push({ use: 'page', url, ...content.range(at, at + url.length) });
  }

  #script(node: Element, text: string, start: number): void {
    const type = attributeOf(node, 'type')?.trim().toLowerCase();
    if (type === 'importmap') return this.#readImportMap(text, start);
    const isModule = type === 'module';
    if (!isModule && type !== undefined && !/^(text|application)\/(x-)?(java|ecma)script$|^$/.test(type)) return;
    const { references, texts = [] } = scriptReferences(text, { isThorough: this.isThorough }, isModule);
    this.#texts.push(...texts.map((one) => ({ ...one, start: one.start + start, end: one.end + start })));
    // A classic script may define its own `require`.
    this.#references.push(...moved(isModule ? references : references.filter((one) => one.use !== 'require'), start));
  }

  #readImportMap(text: string, start: number): void {
    const map = JsonNode.parse(text);
    if (!map) return;
    const lists = [map.member('imports'), ...map.member('scopes').members.map(([, scope]) => scope)];
    for (const [name, node] of lists.flatMap((list) => list.members)) {
      this.#importMap.push(name);
      const { text: url } = node;
      if (!url) continue;
      const range = { start: start + url.start, end: start + url.end };
      const isFolder = url.value.endsWith('/');
      // The names of modules in a folder are part of the specifiers.
      this.#references.push({ use: 'file', url: url.value, ...range, ...(isFolder && stays) });
      // Imports of a URL are mapped by that URL.
      if (/^\.{0,2}\//.test(name)) this.#references.push({ use: 'file', url: name, ...range, ...stays });
    }
  }

  #add(node: Element, attribute: string, use: ReferenceUse, more: Partial<Reference> = {}): void {
    const value = this.#attribute(node, attribute);
    if (!value) return;
    const url = value.value.trim();
    const at = value.value.indexOf(url);
    const integrityAt = this.#integrityAt(node, attribute);
    const inline = this.#inlinePlace(node, attribute, value.range(at, at + url.length));
    const image = this.#imagePlace(node, attribute);
    this.#references.push({
      use,
      url,
      ...value.range(at, at + url.length),
      ...(integrityAt !== undefined && { integrityAt }),
      ...(inline && { inline }),
      ...(image && { image }),
      ...more,
    });
  }

  /** Where variants of a picture can be offered: not where the page itself does. */
  #imagePlace(node: Element, attribute: string): ImagePlace | undefined {
    // What is offered is written with quotes.
    if (!this.isThorough || this.isInner) return undefined;
    const { startOffset: start, endOffset: end, attrs = {} } = node.sourceCodeLocation ?? {};
    const at = attrs[attribute]?.endOffset;
    if (start === undefined || end === undefined || at === undefined) return undefined;
    const isImage = node.tagName === 'img' && attribute === 'src';
    const rels = (attributeOf(node, 'rel') ?? '').toLowerCase().split(/\s+/);
    const isPreload =
      node.tagName === 'link' && rels.includes('preload') && attributeOf(node, 'as')?.toLowerCase() === 'image';
    if (!isImage && !isPreload) return undefined;
    if (attributeOf(node, isImage ? 'srcset' : 'imagesrcset') !== undefined) return undefined;
    if (isPreload && attributeOf(node, 'type') !== undefined) return undefined;
    const sizes = this.#attribute(node, isImage ? 'sizes' : 'imagesizes');
    const width = isImage ? /^\s*(\d+)/.exec(attributeOf(node, 'width') ?? '')?.[1] : undefined;
    const isPercentage = attributeOf(node, 'width')?.includes('%') === true;
    const { parentNode } = node;
    return {
      kind: isImage ? 'img' : 'preload',
      at,
      start,
      end,
      ...(sizes && { sizes: sizes.value }),
      ...(width !== undefined && !isPercentage && { width: Number(width) }),
      ...(parentNode && isElement(parentNode) && parentNode.tagName === 'picture' && { isInPicture: true }),
    };
  }

  /** Where the content of a file can be written into the page; `data-inline` asks for it. */
  #inlinePlace(node: Element, attribute: string, url: Range): InlinePlace | undefined {
    const more = attributeOf(node, 'data-inline') !== undefined && ({ isAsked: true } as const);
    if (node.tagName === 'img' && attribute === 'src') return { kind: 'picture', ...url, ...more };
    const { startOffset: start, endOffset: end } = node.sourceCodeLocation ?? {};
    if (start === undefined || end === undefined) return undefined;
    const place = (kind: 'style' | 'script' | 'module', isPossible: boolean): InlinePlace => {
      const tag = this.#tag(kind === 'style' ? 'style' : 'script', node);
      return { kind, start, end, tag, ...more, ...(!isPossible && { isImpossible: true }) };
    };
    if (node.tagName === 'link' && attributeOf(node, 'rel')?.trim().toLowerCase() === 'stylesheet') {
      // A sheet with a title is one of several that can be chosen.
      return place('style', attributeOf(node, 'title') === undefined && attributeOf(node, 'disabled') === undefined);
    }
    if (node.tagName !== 'script' || attribute !== 'src') return undefined;
    const isModule = attributeOf(node, 'type')?.trim().toLowerCase() === 'module';
    // Scripts in pages are not deferred, unless they are modules.
    const isDeferred =
      attributeOf(node, 'async') !== undefined || (!isModule && attributeOf(node, 'defer') !== undefined);
    return place(isModule ? 'module' : 'script', !isDeferred);
  }

  /** The start tag of an element with the attributes of another one that do not concern its URL. */
  #tag(name: string, node: Element): string {
    const left = Object.entries(node.sourceCodeLocation?.attrs ?? {}).filter(([key]) => !urlRelated.has(key));
    const written = left.map(([, { startOffset, endOffset }]) => ` ${this.html.slice(startOffset, endOffset)}`);
    return `<${name}${written.join('')}>`;
  }

  /** The offset after an attribute whose URL can be checked (Subresource Integrity, section 3.4). */
  #integrityAt(node: Element, attribute: string): number | undefined {
    const relation = attributeOf(node, 'rel') ?? '';
    // Browsers only check scripts and sheets, and warn of the attribute on other preloads.
    const isPreload = /\bpreload\b/i.test(relation) && /^(script|style)$/i.test(attributeOf(node, 'as') ?? '');
    const isChecked =
      node.tagName === 'script' ||
      (node.tagName === 'link' && (isPreload || /\b(stylesheet|modulepreload)\b/i.test(relation)));
    if (!isChecked || attributeOf(node, 'integrity') !== undefined) return undefined;
    return node.sourceCodeLocation?.attrs?.[attribute]?.endOffset;
  }

  /** Values of other attributes that may be URLs, such as those that a script reads. */
  #addTexts(node: Element): void {
    for (const { name } of node.attrs) {
      const value = this.#attribute(node, name);
      if (!value || !mayBeUrl(value.value)) continue;
      const { start, end } = value.range(0, value.value.length);
      if (!this.#references.some((one) => one.start >= start && one.end <= end))
        this.#texts.push({ url: value.value, start, end });
    }
  }

  #addSet(node: Element, attribute: string): void {
    const value = this.#attribute(node, attribute);
    for (const { url, start, end } of value ? sourceSetUrls(value.value) : [])
      this.#references.push({ use: 'file', url, ...value!.range(start, end) });
  }

  /** The value of an attribute, with its positions in the page. */
  #attribute(node: Element, name: string): LocatedText | undefined {
    const { attrs = {} } = node.sourceCodeLocation ?? {};
    const place = attrs[name] ?? attrs[`xlink:${name}`];
    if (!place || attributeOf(node, name) === undefined) return undefined;
    const text = this.html.slice(place.startOffset, place.endOffset);
    const [before, quote = ''] = /^[^=]*(?:=\s*(["']?))?/.exec(text)!;
    const raw = text.slice(before.length, quote === '' ? undefined : -1);
    return LocatedText.inPage(raw, place.startOffset + before.length);
  }

  /** A reference whose content the page may not allow: by its policy, or because relative URLs mean something else in it. */
  #withPossibleInline(one: Reference): Reference {
    const isMoved = this.#base !== undefined && one.inline?.kind === 'style';
    return one.inline && (this.#hasPolicy || isMoved) ? { ...one, inline: { ...one.inline, isImpossible: true } } : one;
  }

  /** An image of a page whose policy may forbid styles. */
  #withPolicy(one: Reference): Reference {
    return one.image && this.#hasPolicy ? { ...one, image: { ...one.image, isUnstyled: true } } : one;
  }

  /** A reference of a page whose `base` moves it; undefined where it leads to another server. */
  #based(one: Reference): Reference[] {
    const here = 'http://page.invalid/';
    if (!URL.canParse(this.#base!, here)) return [one];
    const base = new URL(this.#base!, here);
    if (base.origin !== 'http://page.invalid') return [];
    if (/^\/|^[a-z][a-z0-9+.-]*:/i.test(one.url.trim()) || !this.#base!.includes('/')) return [one];
    const folder = this.#base!.replace(/[^/]*$/, '');
    if (one.use === 'import') {
      // The names of packages are no URLs, and relative ones stay relative (HTML, "resolve a module specifier").
      if (!/^\.{1,2}\//.test(one.url)) return [one];
      const start = /^\.{0,2}\//.test(folder) ? '' : './';
      return [{ ...one, url: start + folder + one.url, written: one.url }];
    }
    return [{ ...one, url: folder + one.url, written: one.url }];
  }
}

/** Where the content of a file can be written in a page in an attribute: only a picture needs no escapes. */
function inAttribute(place: InlinePlace, page: LocatedText): InlinePlace {
  const moved = { ...place, ...page.range(place.start, place.end) };
  return place.kind === 'picture' ? moved : { ...moved, isImpossible: true };
}

/** True if a text may hold URLs: most of the time, looking is cheaper than parsing. */
const mayHoldUrls = (text: string): boolean => /url|@import|image-set|src\(/i.test(text);
