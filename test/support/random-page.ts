// Random pages, as people and programs write them: white space in every place, attributes in every form, and elements
// whose text is shown as it is written.
import { Random } from './random.js';

const spaces = ['', '', ' ', '\n', '  ', '\n    ', '\t', ' \n\n '];
const words = [
  'sky',
  'fern',
  'lantern',
  'a  b',
  'x &amp; y',
  '&lt;p&gt;',
  '星',
  '&nbsp;',
  '\u00a0',
  'a\f b',
  '\f',
  '1 < 2',
  '{{ name }}',
  "it's",
];
const blocks = ['div', 'p', 'section', 'ul', 'h2', 'blockquote', 'article', 'table', 'dl', 'form', 'details'];
const inlines = ['b', 'i', 'a', 'span', 'code', 'em', 'button', 'label', 'u-star', 'sub', 'img', 'br', 'input', 'wbr'];
const displays = ['inline-block', 'inline', 'block', 'flex', 'grid', 'contents'];

/** A random page. */
export class RandomPage {
  readonly #random: Random;
  #depth = 0;

  constructor(seed: number) {
    this.#random = new Random(seed);
  }

  text(): string {
    const random = this.#random;
    const sheet = Array.from(
      { length: 4 },
      () =>
        `${random.pick([...blocks, ...inlines, 'li', 'td'])} { display: ${random.pick(displays)} ; border : 1px solid }`,
    );
    return `${random.pick(['<!doctype html>', '<!DOCTYPE HTML>\n', '<!-- first --><!doctype html>'])}${this.#space()}
<html${random.pick(['', ' lang="en"', " lang=en class='a  b'"])}>
  <head>
    <meta charset="utf-8">${this.#space()}<title> A   page </title><!-- a comment -->
    <style ${random.pick(['type="text/css"', '', 'media="all"'])}>
      ${sheet.join('\n      ')}
      ${random.pick(['', '', '.w { white-space : pre-wrap }'])}
    </style>
    <script>
      // A comment.
      var log = [ 1,  2 ];
      function f ( a ) { return a +  1 }
    </script>
    <script type="application/ld+json">{ "a  b" : [ 1, 2.0 ], "c" : "x\\" y" }</script>
  </head>
  <body>${this.#content(6)}
  </body>
</html>
`;
  }

  #space(): string {
    return this.#random.pick(spaces);
  }

  #content(most: number): string {
    const count = this.#random.between(1, most);
    return Array.from({ length: count }, () => this.#space() + this.#node() + this.#space()).join('');
  }

  #node(): string {
    const random = this.#random;
    const kind = this.#depth > 4 ? 0 : random.between(0, 12);
    this.#depth++;
    try {
      switch (kind) {
        case 0:
        case 1:
        case 2:
          return random.pick(words);
        case 3:
          return random.pick(['<!-- note -->', '<!--! kept -->', '<!--[if lt IE 9]><p>old</p><![endif]-->', '<!---->']);
        case 4:
          return `<pre${this.#attributes()}>${random.pick(['', '\n'])}a\n   b${this.#inline()}  </pre>`;
        case 5:
          return `<textarea>  a\n\n  b </textarea>`;
        case 6:
          return `<svg width="9" height=9 viewBox="0 0 9 9"><path d="M0 0L9 9"/><text x="1">a  b</text>${random.pick(['', '<g/>'])}</svg>`;
        case 7:
          return `<select>\n  <option${this.#attributes()}> one </option>\n  <option value="">two  three</option></select>`;
        case 8:
          return this.#block();
        default:
          return random.chance(0.5) ? this.#block() : this.#inline();
      }
    } finally {
      this.#depth--;
    }
  }

  #block(): string {
    const random = this.#random;
    const name = random.pick(blocks);
    const attributes = this.#attributes();
    switch (name) {
      case 'ul':
        return `<ul${attributes}>${this.#space()}<li>${this.#content(2)}</li>${this.#space()}<li>${this.#content(2)}${random.pick(['</li>', ''])}${this.#space()}</ul>`;
      case 'table':
        return `<table${attributes}>${this.#space()}<tr>${this.#space()}<td>${this.#content(2)}</td>${this.#space()}<td>x</td></tr>${this.#space()}</table>`;
      case 'dl':
        return `<dl><dt>${this.#inline()}<dd>${this.#content(2)}</dl>`;
      case 'p':
        return `<p${attributes}>${this.#space()}${this.#inline()}${this.#space()}${random.pick(words)}${random.pick(['</p>', '</p>', ''])}`;
      default:
        return `<${name}${attributes}>${this.#content(3)}</${name}>`;
    }
  }

  #inline(): string {
    const random = this.#random;
    const name = random.pick(inlines);
    const attributes = this.#attributes();
    if (/^(img|br|input|wbr)$/.test(name)) return `<${name}${attributes}${random.pick(['', ' /', '/'])}>`;
    return `<${name}${attributes}>${this.#space()}${random.pick(words)}${this.#space()}</${name}>`;
  }

  #attributes(): string {
    const random = this.#random;
    const all = [
      'class="w"',
      'class = "a b"',
      'title=\'x "y"\'',
      'title="a=b"',
      'data-x=""',
      'hidden=""',
      'id=plain',
      'style="color: red"',
      'style="white-space: pre"',
      'href="a.html?x=1&amp;y=2"',
      'alt=""',
      'data-path="a/b/"',
      'type="text"',
      'DISABLED',
      'contenteditable',
    ];
    return Array.from({ length: random.between(0, 2) }, () => random.pick(['\n  ', ' ', '  ']) + random.pick(all)).join(
      '',
    );
  }
}
