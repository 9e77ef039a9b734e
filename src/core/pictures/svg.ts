import { shorterNumbers, shorterPath } from './path-data.js';
import { xmlTokens, type XmlAttribute, type XmlToken } from './xml-tokens.js';

/** Namespaces of what browsers show, and of XML itself. */
const shownNamespaces: ReadonlySet<string> = new Set([
  'http://www.w3.org/2000/svg',
  'http://www.w3.org/1999/xlink',
  'http://www.w3.org/1999/xhtml',
  'http://www.w3.org/1998/Math/MathML',
  'http://www.w3.org/XML/1998/namespace',
  'http://www.w3.org/2000/xmlns/',
]);

/** Elements in which white space is shown, or may be. */
const textElements: ReadonlySet<string> = new Set([
  ...['text', 'tspan', 'textPath', 'title', 'desc', 'style', 'script', 'foreignObject'],
]);

/** Attributes that are lists of numbers. */
const numberLists: ReadonlySet<string> = new Set(['points', 'viewBox']);

/** Attributes whose value is a colour (SVG 2, "presentation attributes"). */
const colours: ReadonlySet<string> = new Set([
  'fill',
  'stroke',
  'stop-color',
  'flood-color',
  'lighting-color',
  'color',
]);

/** Signs of style sheets that refer to more than classes, ids and names. */
const selectors = /[[|+~]|:(nth|first|last|only|empty|root|has|not|is|where)\b/i;

type StartTag = Extract<XmlToken, { kind: 'start' }>;

/**
 * An SVG file in fewer characters, with the same appearance and the same ids: without comments, metadata, what only drawing
 * programs read, and white space that is not shown.
 *
 * @returns the text itself if it is not well-formed, has entities of its own, or scripts that may look at it
 */
export function recompressSvg(text: string): string {
  const tokens = xmlTokens(text);
  if (!tokens || tokens.some(isAlive)) return text;
  return new SvgWriter(tokens).result();
}

/** Reports whether a part may change the picture, or what other parts mean. */
function isAlive(token: XmlToken): boolean {
  if (token.kind === 'doctype') return token.text.includes('[');
  if (token.kind === 'instruction') return !/^<\?xml\s/.test(token.text) || isOtherEncoding(token.text);
  if (token.kind !== 'start') return false;
  return localName(token.name) === 'script' || token.attributes.some(({ name }) => /^on/i.test(name));
}

function isOtherEncoding(declaration: string): boolean {
  const [, encoding = 'utf-8'] = /encoding\s*=\s*["']([^"']*)/.exec(declaration) ?? [];
  return !/^(utf-?8|us-ascii)$/i.test(encoding);
}

const localName = (name: string): string => name.slice(name.indexOf(':') + 1);
const prefixOf = (name: string): string => (name.includes(':') ? name.slice(0, name.indexOf(':')) : '');

class SvgWriter {
  #out = '';
  /** The namespaces of prefixes, for each open element. */
  readonly #scopes: ReadonlyMap<string, string>[] = [new Map([['xml', 'http://www.w3.org/XML/1998/namespace']])];
  readonly #open: { readonly name: string; readonly keepsSpace: boolean }[] = [];
  /** The depth of the element that is left out, with everything in it. */
  #omitted: number | undefined;
  /** True after a start tag that is written as an empty element, until its end. */
  #isJustEmpty = false;
  /** True if style sheets may refer to attributes, or to the places of elements. */
  readonly #hasSelectors: boolean;
  /** True if style sheets may refer to elements without any text, not even white space. */
  readonly #hasEmpty: boolean;

  constructor(private readonly tokens: readonly XmlToken[]) {
    const styles = tokens
      .filter(({ kind }) => kind === 'text' || kind === 'data')
      .map((token) => ('text' in token ? token.text : ''));
    this.#hasEmpty = styles.some((one) => /:empty\b/i.test(one));
    this.#hasSelectors = styles.some((one) => selectors.test(one.replace('<![CDATA[', '').replace(']]>', '')));
  }

  result(): string {
    for (const [at, token] of this.tokens.entries()) this.#write(token, this.tokens[at + 1]);
    return `${this.#out.trim()}\n`;
  }

  #write(token: XmlToken, next: XmlToken | undefined): void {
    switch (token.kind) {
      case 'start':
        return this.#start(token, next);
      case 'end':
        return this.#end(token.name);
      case 'comment':
        // e.g. <!--! a licence -->
        if (token.text.startsWith('<!--!')) this.#add(token.text);
        return;
      case 'text':
        return this.#text(token.text);
      case 'data':
        return this.#add(token.text);
      case 'instruction':
      case 'doctype':
        return;
    }
  }

  #add(text: string): void {
    if (this.#omitted === undefined) this.#out += text;
  }

  #start(token: StartTag, next: XmlToken | undefined): void {
    const scope = new Map(this.#scopes.at(-1));
    for (const { name, value } of token.attributes)
      if (name === 'xmlns' || name.startsWith('xmlns:')) scope.set(name === 'xmlns' ? '' : name.slice(6), value);
    const isEmpty = token.isEmpty || (next?.kind === 'end' && next.name === token.name);
    if (this.#omitted === undefined && this.#isOmitted(token, scope)) this.#omitted = this.#open.length;
    const local = localName(token.name);
    const parent = this.#open.at(-1)?.keepsSpace ?? false;
    const space = token.attributes.find(({ name }) => name === 'xml:space')?.value;
    const style = token.attributes.find(({ name }) => name === 'style')?.value ?? '';
    const keepsSpace = parent || space === 'preserve' || textElements.has(local) || /white-space/.test(style);
    const attributes = token.attributes.filter((one) => this.#isKept(one, scope));
    this.#add(`<${token.name}${attributes.map((one) => written(one)).join('')}${isEmpty ? '/' : ''}>`);
    this.#open.push({ name: token.name, keepsSpace });
    this.#scopes.push(scope);
    if (token.isEmpty) this.#close();
    else this.#isJustEmpty = isEmpty;
  }

  #end(name: string): void {
    if (!this.#isJustEmpty) this.#add(`</${name}>`);
    this.#close();
    this.#isJustEmpty = false;
  }

  #close(): void {
    this.#open.pop();
    this.#scopes.pop();
    if (this.#omitted === this.#open.length) this.#omitted = undefined;
  }

  #text(text: string): void {
    const { keepsSpace = false } = this.#open.at(-1) ?? {};
    if (keepsSpace || this.#hasEmpty || text.trim() !== '') this.#add(text);
  }

  /** Reports whether nothing of an element is shown. */
  #isOmitted({ name }: StartTag, scope: ReadonlyMap<string, string>): boolean {
    if (this.#hasSelectors) return false;
    const namespace = scope.get(prefixOf(name));
    if (namespace === undefined || !shownNamespaces.has(namespace)) return namespace !== undefined;
    return namespace === 'http://www.w3.org/2000/svg' && localName(name) === 'metadata';
  }

  #isKept({ name, value }: XmlAttribute, scope: ReadonlyMap<string, string>): boolean {
    if (this.#hasSelectors || name === 'xmlns') return true;
    if (name.startsWith('xmlns:')) return shownNamespaces.has(value);
    const prefix = prefixOf(name);
    if (prefix === '') return true;
    const namespace = scope.get(prefix);
    return namespace === undefined || shownNamespaces.has(namespace);
  }
}

function written({ name, value, quote }: XmlAttribute): string {
  return ` ${name}=${quote}${shorterValue(name, value)}${quote}`;
}

function shorterValue(name: string, value: string): string {
  if (value.includes('&')) return value;
  if (name === 'd') return shorterPath(value) ?? value;
  if (numberLists.has(name)) return shorterNumbers(value) ?? value;
  if (colours.has(name)) return value.replace(/^\s*#([\da-f])\1([\da-f])\2([\da-f])\3\s*$/i, '#$1$2$3');
  return value;
}
