// Makes src/core/languages/css/prefix/table.json from the browser compatibility data: for each name that a browser
// supported
// only under another name, the versions in which it did.
import {
  before,
  browsers,
  data,
  partsOf,
  statementsOf,
  type Compat,
  type Feature,
  type Span,
  type Statement,
} from './compatibility.js';
import { writeTable } from './table.js';

type Needs = Record<string, Record<string, Span[]>>;

/**
 * For each alternative name of a feature, the browsers and versions that support it and not the standard name. A
 * browser with partial support for the standard name only needs the alternative one if it fully supports that.
 */
function needsOf(compat: Compat, spell: (statement: Statement) => string | undefined): Needs {
  const needs: Needs = {};
  for (const browser of browsers) {
    const statements = statementsOf(compat, browser);
    const standard = statements.filter((one) => !one.prefix && !one.alternative_name);
    for (const statement of statements) {
      const spelling = statement.prefix || statement.alternative_name ? spell(statement) : undefined;
      if (spelling === undefined) continue;
      const known = standard.filter((one) => !one.partial_implementation || statement.partial_implementation);
      add(needs, spelling, browser, withoutAll([statement.span], known));
    }
  }
  return needs;
}

/** The browsers and versions that support one feature and not another one, whatever their names. */
function needsBetween(spelling: string, older: Compat, newer: Compat, prefix?: string): Needs {
  const needs: Needs = {};
  for (const browser of browsers) {
    const knowing = statementsOf(older, browser).filter((one) => prefix === undefined || one.prefix === prefix);
    const spans = knowing.map((one) => one.span);
    add(needs, spelling, browser, withoutAll(spans, statementsOf(newer, browser)));
  }
  return needs;
}

function add(needs: Needs, spelling: string, browser: string, spans: readonly Span[]): void {
  for (const span of spans) {
    const known = ((needs[spelling] ??= {})[browser] ??= []);
    if (!known.some((one) => withoutAll([span], [{ span: one }]).length === 0)) known.push(span);
  }
}

const withoutAll = (spans: readonly Span[], known: readonly Pick<Statement, 'span'>[]): Span[] =>
  known.reduce<Span[]>((left, { span }) => left.flatMap((one) => without(one, span)), [...spans]);

/** Subtracts one version range from another. */
function without([from, to]: Span, [knownFrom, knownTo]: Span): Span[] {
  const parts: Span[] = [];
  if (before(from, knownFrom)) parts.push([from, to === null || before(knownFrom, to) ? knownFrom : to]);
  if (knownTo !== null && (to === null || before(knownTo, to)))
    parts.push([before(from, knownTo) ? knownTo : from, to]);
  return parts;
}

/**
 * Excluded are names that are not in use any more, those of the old grid layout, which is an option, and the order of
 * flexible boxes, which had another name in that draft.
 */
const usable = (name: string): string | undefined => (/^-khtml-|^-ms-(grid|order$)/.test(name) ? undefined : name);
const spellWord = (word: string) => (statement: Statement) =>
  usable(statement.alternative_name ?? `${statement.prefix!}${word}`);
/** Values whose alternative name has another meaning, and those of the old grid layout. */
const isOtherThing = /^(text-align (left|right|center)|user-select none|justify-self .*|display (inline-)?grid)$/;
const isWord = (name: string): boolean => /^[a-z][a-z0-9-]*$/.test(name);

const properties: Record<string, Needs> = {};
const values: Record<string, Record<string, Needs>> = {};
for (const [property, feature] of Object.entries(data.css.properties)) {
  // The 2009 box model never had these names without a prefix; `prefix` writes it for flexible boxes.
  if (!isWord(property) || /^box-(align|direction|flex|flex-group|lines|ordinal-group|orient|pack)$/.test(property))
    continue;
  if (feature.__compat) keep(properties, property, needsOf(feature.__compat, spellWord(property)));
  for (const [value, one] of partsOf(feature)) {
    // e.g. `column-gap` in columns, which had a prefix there, and in grids, which had another name
    if (value.endsWith('_context') && one.__compat)
      merge((properties[property] ??= {}), needsOf(one.__compat, spellWord(property)));
    if (!isWord(value) || !one.__compat || isOtherThing.test(`${property} ${value}`)) continue;
    const needs = needsOf(one.__compat, spellWord(value));
    if (Object.keys(needs).length > 0) (values[property] ??= {})[value] = needs;
  }
}

// Missing from the data: Firefox had a name of its own for this keyword.
for (const property of ['width', 'min-width', 'max-width', 'inline-size', 'min-inline-size', 'max-inline-size']) {
  const spans: Needs[string] = {};
  for (const browser of ['firefox', 'firefox_android']) {
    const [known] = statementsOf(at('properties.width.stretch'), browser as 'firefox').map(({ span }) => span);
    spans[browser] = [[property.includes('inline') ? '41' : '4', known?.[0] ?? null]];
  }
  ((values[property] ??= {})['stretch'] ??= {})['-moz-available'] = spans;
}

const atRules: Record<string, Needs> = {};
for (const [name, feature] of Object.entries(data.css['at-rules'])) {
  if (feature.__compat) keep(atRules, name, needsOf(feature.__compat, spellWord(name)));
}

const selectors: Record<string, Needs> = {};
for (const [name, feature] of Object.entries(data.css.selectors)) {
  const [, spelled, parentheses = ''] =
    /<code>(::?[a-z-]+)(\(\))?<\/code>/.exec(feature.__compat?.description ?? '') ?? [];
  if (!feature.__compat || spelled === undefined || spelled.replace(/^::?/, '') !== name) continue;
  const colons = spelled.startsWith('::') ? '::' : ':';
  const spell = (statement: Statement): string | undefined => {
    const other = statement.alternative_name ?? `${colons}${statement.prefix!}${name}${parentheses}`;
    return /^::?-(?!khtml-)[a-z-]+(\(\))?$/.test(other) ? other.replace('()', '') : undefined;
  };
  keep(selectors, spelled + parentheses, needsOf(feature.__compat, spell));
}

const functions: Record<string, Needs> = {};
const { gradient, image, calc } = data.css.types as Record<string, Feature>;
for (const [name, feature] of [...partsOf(gradient!), ...partsOf(image!), ['calc', calc!] as const])
  if (isWord(name) && feature.__compat) keep(functions, name, needsOf(feature.__compat, spellWord(name)));

/** Alternatives that are not only another name but another syntax. */
const ways: Record<string, Needs> = {};
const flex = at('properties.flex');
for (const vendor of ['-webkit-', '-moz-'])
  Object.assign((ways['box'] ??= {}), needsBetween(`${vendor}box`, at('properties.box-align'), flex, vendor));
const resolution = at('at-rules.media.resolution');
const ratio = at('at-rules.media.-webkit-min-device-pixel-ratio');
ways['resolution'] = needsBetween('-webkit-min-device-pixel-ratio', ratio, resolution);
for (const place of ['before', 'after', 'inside'])
  ways[`break-${place}`] = {
    ...needsBetween(`-webkit-column-break-${place}`, at('properties.column-count'), at(`properties.break-${place}`)),
    ...needsBetween(`page-break-${place}`, at(`properties.page-break-${place}`), at(`properties.break-${place}`)),
  };
ways['text-decoration'] = needsOf(
  at('properties.text-decoration.includes_color-and-style'),
  spellWord('text-decoration'),
);
// Browsers with prefixed masks have other keywords for compositing.
ways['mask-composite'] = { '-webkit-mask-composite': properties['mask']!['-webkit-mask']! };
// The data calls it partial support if the property of the value needs a prefix.
const text = at('properties.background-clip.text');
for (const browser of browsers)
  for (const one of statementsOf(text, browser))
    if (one.partial_implementation && !/^(ie|firefox)/.test(browser))
      add((ways['background-clip'] ??= {}), '-webkit-background-clip', browser, [one.span]);

function at(path: string): Compat {
  const feature = path
    .split('.')
    .reduce<Feature | undefined>((one, part) => one?.[part] as Feature | undefined, data.css as unknown as Feature);
  if (!feature?.__compat) throw new Error(`the data has no ${path}`);
  return feature.__compat;
}

function merge(into: Needs, needs: Needs): void {
  for (const [spelling, spans] of Object.entries(needs))
    for (const [browser, own] of Object.entries(spans)) add(into, spelling, browser, own);
}

function keep(table: Record<string, Needs>, name: string, needs: Needs): void {
  if (Object.keys(needs).length > 0) table[name] = needs;
}

const table = { data: data.__meta.version, properties, values, functions, atRules, selectors, ways };
const size = await writeTable('src/core/languages/css/prefix/table.json', table);
console.log(
  `prefix table: ${String(Object.keys(properties).length)} properties, ${String(Object.keys(selectors).length)} selectors, ${String(size)} bytes`,
);
