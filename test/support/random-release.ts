// Random sites whose files refer to each other in every form, for names by content. The name of each file ends with a
// mark, such as q12q, so that every trace of it can be found in any text.
import { readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { Random } from './random.js';

/** The kinds of files. */
type Kind = 'png' | 'svg' | 'css' | 'js' | 'html' | 'webmanifest';

interface SiteFile {
  readonly path: string;
  readonly kind: Kind;
}

const folders = ['', 'a/', 'a/b b/', 'c/', 'd[1]/', 'ü%/'];
const special = ['50%', '%41', 'i[1]', 'w?x', 'h#1', 'two  spaces', '@', '{b}', '*'];
const prefixes = ['', 'x y', 'é', "it's", 'n(1)', 'm,n', 'r&s', 'semi;colon', 'v1.2', ...special];

/** A random site that changes. */
export class RandomRelease {
  readonly files = new Map<string, string | Uint8Array>();
  readonly #random: Random;
  readonly #all: SiteFile[] = [];
  #contents = 0;

  constructor(seed: number) {
    this.#random = new Random(seed);
    const kinds: Kind[] = ['png', 'png', 'png', 'svg', 'svg', 'css', 'css', 'css', 'js', 'js', 'js', 'html', 'html'];
    for (const kind of [...kinds, ...(this.#random.chance(0.5) ? (['webmanifest'] as const) : [])]) this.#add(kind);
    for (const file of this.#all) this.#write(file);
  }

  /** Changes one file. */
  change(): void {
    const file = this.#random.pick(this.#all);
    if (this.#random.chance(0.1)) this.#write(this.#add(this.#random.pick(['png', 'css', 'js', 'html'])));
    this.#write(file);
  }

  /** The paths of pages, relative to the site. */
  get pages(): string[] {
    return this.#all.filter(({ kind }) => kind === 'html').map(({ path }) => path);
  }

  #add(kind: Kind): SiteFile {
    const { length: number } = this.#all;
    const prefix = kind === 'html' ? '' : this.#random.pick(prefixes);
    const file = { path: `${this.#random.pick(folders)}${prefix}q${String(number)}q.${kind}`, kind };
    this.#all.push(file);
    return file;
  }

  #write(file: SiteFile): void {
    this.files.set(file.path, file.kind === 'png' ? this.#picture() : this.#text(file));
  }

  /** A picture of one pixel, and a different text after it. */
  #picture(): Uint8Array {
    const pixel = 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==';
    return Buffer.concat([Buffer.from(pixel, 'base64'), Buffer.from(this.#content())]);
  }

  #content(): string {
    return String(this.#contents++ % 50);
  }

  #text(file: SiteFile): string {
    switch (file.kind) {
      case 'css':
        return this.#sheet(file);
      case 'js':
        return this.#script(file);
      case 'svg':
        return `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"><title>${this.#content()}</title>${this.#some(['png', 'svg'], (one) => `<image ${this.#random.pick(['href', 'xlink:href'])}="${this.#attribute(this.#url(file, one))}"/>`)}</svg>\n`;
      case 'webmanifest':
        return JSON.stringify({
          name: this.#content(),
          icons: this.#targets(['png']).map((one) => ({ src: this.#url(file, one) })),
        });
      default:
        return this.#page(file);
    }
  }

  #sheet(file: SiteFile): string {
    const random = this.#random;
    const url = (one: SiteFile): string => {
      const written = this.#url(file, one);
      const escaped = random.chance(0.2) ? written.replace(/\./g, '\\2e ') : written;
      return random.pick([
        `url("${escaped}")`,
        `url( '${escaped.replace(/'/g, "\\'")}' )`,
        /["'()\s\\]/.test(written) ? `url("${written}")` : `URL(${written})`,
        `image-set("${written}" 1x)`,
      ]);
    };
    const imports = this.#some(
      ['css'],
      (one) =>
        `@import ${random.chance(0.5) ? url(one).replace(/^image-set\((.*) 1x\)$/, '$1') : `"${this.#url(file, one)}"`};\n`,
    );
    const rules = this.#some(['png', 'svg'], (one) => `.r${this.#content()} { background: ${url(one)} }\n`);
    return `${imports}.c { order: ${this.#content()} }\n${rules}`;
  }

  #script(file: SiteFile): string {
    const random = this.#random;
    const text = (one: SiteFile): string => {
      const url = this.#url(file, one, true);
      return random.pick([
        JSON.stringify(url),
        `'${url.replace(/'/g, "\\'")}'`,
        JSON.stringify(url).replace(/\./g, '\\x2e'),
      ]);
    };
    const imports = this.#some(['js'], (one) => `import ${text(one)};\n`);
    const later = this.#some(['js'], (one) => `globalThis.later = () => import(${text(one)});\n`);
    const assets = this.#some(['png', 'css', 'svg'], (one) => `fetch(new URL(${text(one)}, import.meta.url));\n`);
    return `${imports}globalThis.at = ${this.#content()};\n${assets}${later}`;
  }

  #page(file: SiteFile): string {
    const random = this.#random;
    const up = '../'.repeat(file.path.split('/').length - 1) || './';
    const base = random.chance(0.2) ? random.pick(folders) : undefined;
    const url = base === undefined ? `` : up + base.split('/').map(encodeURIComponent).join('/');
    return [
      '<!doctype html>\n<html><head><meta charset="utf-8"><link rel="icon" href="data:,"><title>Fernlight</title>',
      base === undefined ? '' : `<base href="${this.#attribute(url)}">`,
      ...this.#parts({ path: base === undefined ? file.path : `${base}page` }, true),
      `<p>${this.#content()}</p></body></html>\n`,
    ].join('\n');
  }

  /** What a page loads and shows. */
  #parts(file: Pick<SiteFile, 'path'>, hasFrames: boolean): string[] {
    const random = this.#random;
    const attribute = (one: SiteFile): string => this.#attribute(this.#url(file, one));
    const quoted = (name: string, one: SiteFile): string =>
      random.pick([`${name}="${attribute(one)}"`, `${name} = '${attribute(one).replace(/'/g, '&#39;')}'`]);
    const candidate = (one: SiteFile): string => attribute(one).replace(/,/g, '%2C').replace(/ /g, '%20');
    return [
      this.#some(['css'], (one) => `<link rel="stylesheet" ${quoted('href', one)}>`),
      this.#some(['css'], (one) => `<link rel="preload" as="style" ${quoted('href', one)}>`),
      this.#some(['webmanifest'], (one) => `<link rel="manifest" ${quoted('href', one)}>`),
      this.#some(['js'], (one) => `<script type="module" ${quoted('src', one)}></script>`),
      this.#some(
        ['js'],
        (one) => `<script type="module">import ${JSON.stringify(this.#url(file, one, true))}</script>`,
      ),
      this.#some(['png'], (one) => `<style>b { background: url("${this.#url(file, one)}") }</style>`),
      hasFrames ? '</head><body>' : '',
      this.#some(['png', 'svg'], (one) => `<img alt="" ${quoted('src', one)}>`),
      this.#some(['png'], (one) => `<img alt="" srcset="${candidate(one)} 1x, ${candidate(one)} 2x">`),
      this.#some(['png'], (one) => `<picture><source srcset="${candidate(one)} 2x"><img alt=""></picture>`),
      this.#some(['png'], (one) => `<svg><image ${quoted('href', one)}></image></svg>`),
      this.#some(['png'], (one) => `<i style="background: url(&quot;${attribute(one)}&quot;)">x</i>`),
      this.#some(['html'], (one) => `<a ${quoted('href', one)}>x</a>`),
      hasFrames && random.chance(0.3)
        ? `<iframe srcdoc="${this.#attribute(this.#parts(file, false).join('\n'))}"></iframe>`
        : '',
    ];
  }

  /** Up to two files of some kinds. */
  #targets(kinds: readonly Kind[]): SiteFile[] {
    const fitting = this.#all.filter(({ kind }) => kinds.includes(kind));
    if (fitting.length === 0) return [];
    return Array.from({ length: this.#random.between(0, 2) }, () => this.#random.pick(fitting));
  }

  #some(kinds: readonly Kind[], write: (file: SiteFile) => string): string {
    return this.#targets(kinds).map(write).join('\n');
  }

  /** A URL from one file to another. */
  #url(from: Pick<SiteFile, 'path'>, to: SiteFile, isModule = false): string {
    const random = this.#random;
    const encoded = to.path.split('/').map(encodeURIComponent).join('/');
    // What need not be encoded is sometimes not; `%`, `?` and `#` always are.
    const path = random.chance(0.5)
      ? encoded
      : encoded.replace(/%(?!25|3F|23)../g, (code) =>
          /%([89A-F].|2[08]|29|2C|3B)/.test(code) ? code : decodeURIComponent(code),
        );
    const up = '../'.repeat(from.path.split('/').length - 1) || './';
    const start = random.chance(0.25) ? '/' : up;
    return start + path + (isModule ? '' : random.pick(['', '', '', '?v=1', '#part']));
  }

  #attribute(url: string): string {
    return url.replace(/&/g, '&amp;').replace(/"/g, '&quot;');
  }
}

/**
 * References in published files that lead to nothing, or to the names before.
 *
 * @param isFromPages true for the references of pages, and of everything that they lead to; false for those of all files
 */
export function danglingNames(site: string, isFromPages = false): string[] {
  const files = readdirSync(site, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile() && /^[^.].*\.(png|css|js|svg|html|webmanifest)$/.test(entry.name))
    .map((entry) => join(entry.parentPath, entry.name));
  const byName = new Map(files.map((path) => [/q\d+q-[0-9a-f]{10}(?=\.)/.exec(path)?.[0] ?? path, path]));
  const open = new Set(isFromPages ? files.filter((path) => path.endsWith('.html')) : files);
  const dangling: string[] = [];
  for (const path of open) {
    if (path.endsWith('.png')) continue;
    for (const [name, next] of readFileSync(path, 'utf8').matchAll(/q\d+q(?:-[0-9a-f]{10})?(?=([.\\%&].{0,5}))/g)) {
      const target = byName.get(name);
      if (target !== undefined) open.add(target);
      else if (!/^.{0,4}(html|webma)/.test(next!)) dangling.push(`${relative(site, path)}: ${name}${next!}`);
    }
  }
  return dangling;
}
