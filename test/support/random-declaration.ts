import { lexer, type DSNode } from 'css-tree';
import { Random } from './random.js';

/** The definitions of the parser's package, which its types do not describe. */
const { properties, types } = lexer as unknown as Record<
  'properties' | 'types',
  Readonly<Record<string, { readonly syntax: DSNode | null } | undefined>>
>;

/**
 * Random property values, generated from the definitions of the properties: most are valid, with numbers of every sign,
 * and some are invalid in the ways in which authors and tools make mistakes. Only a browser can say whether a value is
 * valid.
 */
export class ValueWriter extends Random {
  /** The properties that have a definition, except one for which Chromium rejects calculations. */
  static readonly properties = Object.keys(properties).filter(
    (name) =>
      /^[a-z]/.test(name) && properties[name]!.syntax && !/^(overflow-clip-margin|scroll-marker-group)$/.test(name),
  );

  /** A value for a property that has a definition. */
  value(property: string): string {
    const made = this.#made(properties[property]!.syntax!, 0).trim().replace(/\s+/g, ' ');
    return this.chance(0.25) ? this.#spoilt(made) : made;
  }

  /** Makes a value invalid: too many or too few parts, hacks, values of other types. */
  #spoilt(value: string): string {
    const words = value.split(' ');
    const at = Math.floor(this.random() * words.length);
    const word = words[at]!;
    const replaced = (text: string): string => words.with(at, text).join(' ');
    return this.pick([
      () => `${value}\\9`,
      () => `${value} \\9`,
      () => `${value}\\0`,
      () => `${value} \\0/`,
      () => `${value} ${word}`,
      () => `${value} inherit`,
      () => `inherit ${value}`,
      () => 'inherit inherit',
      () => replaced(''),
      () => replaced(`-${word}`),
      () => replaced(`${word}/**/`),
      () => value.replace(' ', '/**/'),
      () => replaced(`-/**/${word}`),
      () => replaced(`unheard(${word})`),
      () => replaced(`calc(${word} + 10%)`),
      () => replaced(`calc(${word} +/**/2px)`),
      () => replaced('0'),
      () => replaced(`${word}x`),
      () => replaced('unheard-of'),
      () => `${value} /`,
      () => `${value},`,
      () => `${value}, ${value}`,
    ])();
  }

  #made(node: DSNode, depth: number): string {
    switch (node.type) {
      case 'Group':
        return this.#group(node, depth);
      case 'Multiplier': {
        const most = node.max === 0 ? node.min + 2 : node.max;
        const count = node.min + Math.floor(this.random() * (most - node.min + 1));
        return Array.from({ length: count }, () => this.#made(node.term, depth)).join(node.comma ? ', ' : ' ');
      }
      case 'Type':
        return this.#type(node.name, node.opts as Range | null, depth);
      case 'Property':
        return depth > 12 || !properties[node.name]?.syntax
          ? '1px'
          : this.#made(properties[node.name]!.syntax!, depth + 1);
      case 'Keyword':
        return node.name;
      case 'Function':
        return `${node.name}(`;
      case 'Comma':
        return ',';
      case 'Token':
      case 'String':
        return node.value;
      default:
        return '';
    }
  }

  #group({ terms, combinator }: Extract<DSNode, { type: 'Group' }>, depth: number): string {
    const all = (list: readonly DSNode[]): string => list.map((one) => this.#made(one, depth)).join(' ');
    const shuffled = (): DSNode[] =>
      terms
        .map((one) => [this.random(), one] as const)
        .sort(([a], [b]) => a - b)
        .map(([, one]) => one);
    switch (combinator) {
      case '|':
        return this.#made(this.pick(terms), depth);
      case '||':
        return all(shuffled().slice(0, 1 + Math.floor(this.random() * Math.min(3, terms.length))));
      case '&&':
        return all(this.chance(0.5) ? terms : shuffled());
      default:
        return all(terms);
    }
  }

  #type(name: string, range: Range | null, depth: number): string {
    const basic = this.#basic(name, range);
    if (basic !== undefined) return basic;
    const type = types[name];
    return depth > 12 || !type?.syntax ? '0' : this.#made(type.syntax, depth + 1);
  }

  #basic(name: string, range: Range | null): string | undefined {
    const number = (): string => this.#number(range);
    const whole = (): string => this.pick(['0', '1', '2', '3', '-1', '-2', '1.5', '100', '+1', 'calc(2 - 3)']);
    const length = (): string =>
      this.pick([() => `${number()}px`, () => `${number()}em`, () => '0', () => `calc(${number()}px + 1em)`])();
    const percentage = (): string => `${number()}%`;
    switch (name) {
      case 'number':
      case 'number-zero-one':
      case 'alpha-value':
        return this.pick([number, number, percentage, () => `calc(${number()} * 2)`])();
      case 'integer':
        return whole();
      case 'length':
        return length();
      case 'percentage':
        return percentage();
      case 'length-percentage':
        return this.pick([length, length, percentage, () => `calc(${percentage()} + ${length()})`])();
      case 'angle':
      case 'angle-percentage':
        return `${number()}${this.pick(['deg', 'turn', 'rad', 'grad'])}`;
      case 'time':
        return `${number()}${this.pick(['s', 'ms'])}`;
      case 'resolution':
        return `${number()}${this.pick(['dppx', 'dpi', 'x'])}`;
      case 'flex':
        return `${number()}fr`;
      case 'ratio':
        return `${number()} / ${number()}`;
      case 'color':
        return this.pick([
          'red',
          '#0f0',
          '#11223344',
          'rgb(1 2 3)',
          'rgba(1, 2, 3, .5)',
          'currentcolor',
          'transparent',
          'hsl(1deg 2% 3%)',
        ]);
      case 'hex-color':
        return this.pick(['#abc', '#aabbccdd']);
      case 'string':
        return this.pick(['"a"', "'b c'", '""']);
      case 'url':
        return this.pick(['url(a.png)', 'url("b.png")']);
      case 'image':
        return this.pick(['url(a.png)', 'linear-gradient(red, blue)', 'none']);
      case 'ident':
      case 'custom-ident':
      case 'keyframes-name':
        return this.pick(['glow', 'fade', 'x-y', 'auto', 'none', 'default', 'span']);
      case 'dashed-ident':
      case 'custom-property-name':
        return this.pick(['--a', '--b-c']);
      case 'hash-token':
        return '#x';
      case 'calc()':
      case 'calc-sum':
        return 'calc(1px + 2%)';
      case 'declaration-value':
      case 'any-value':
      case 'whole-value':
        return 'x 1px';
      case 'urange':
        return this.pick(['U+26', 'U+0-7F', 'U+4??']);
      case 'an-plus-b':
        return '2n+1';
      default:
        return undefined;
    }
  }

  #number(range: Range | null): string {
    const values = ['0', '1', '2', '-1', '.5', '-0.5', '100', '1e1', '+3', '1000', '-0'];
    const fits = (text: string): boolean =>
      !range || (Number(text) >= (range.min ?? -Infinity) && Number(text) <= (range.max ?? Infinity));
    const fitting = values.filter(fits);
    return this.pick(this.chance(0.85) && fitting.length > 0 ? fitting : values);
  }
}

interface Range {
  readonly type: 'Range';
  readonly min: number | null;
  readonly max: number | null;
}
