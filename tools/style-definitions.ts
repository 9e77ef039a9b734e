// Makes src/core/languages/css/support/definitions.json from the value definitions of the CSS specifications, for the
// properties that the parser's package knows, with all types that these refer to.
import { readFileSync } from 'node:fs';
import { definitionSyntax, lexer, type DSNode } from 'css-tree';
import { writeTable } from './table.js';

interface Definition {
  readonly name: string;
  readonly syntax?: string;
}

interface Specifications {
  readonly properties: readonly Definition[];
  readonly types: readonly Definition[];
  readonly functions: readonly Definition[];
}

/** Constraints that the specifications state only in prose. */
const inProse: Readonly<Record<string, string>> = {
  // Filter Effects Level 1, section 6.1: values below zero are invalid.
  'blur()': 'blur( <length [0,∞]>? )',
  ...Object.fromEntries(
    ['brightness', 'contrast', 'grayscale', 'invert', 'opacity', 'saturate', 'sepia'].map((name) => [
      `${name}()`,
      `${name}( [ <number [0,∞]> | <percentage [0,∞]> ]? )`,
    ]),
  ),
  'drop-shadow()': 'drop-shadow( [ <color>? && [ <length>{2} <length [0,∞]>? ] ] )',
  // Easing Functions Level 2, section 2.3.
  'steps()':
    'steps( <integer [2,∞]> , jump-none ) | steps( <integer [1,∞]> , [ jump-start | jump-end | jump-both | start | end ] ) | steps( <integer [1,∞]> )',
  // Animations Level 2, section 3.11: the shorthand resets the timeline, but does not take one.
  'single-animation':
    '<time [0,∞]> || <easing-function> || <time> || <single-animation-iteration-count> || <single-animation-direction> || <single-animation-fill-mode> || <single-animation-play-state> || [ none | <keyframes-name> ]',
  // Grid Layout Level 2, section 7.2: the arguments of the functions have names instead of types.
  'fit-content()': 'fit-content( <length-percentage [0,∞]> )',
  'minmax()': 'minmax( [ <inflexible-breadth> | <track-breadth> ] , <track-breadth> )',
};

/**
 * Properties that the matcher does not support: lists with as many items as another property has, and ranges in prose.
 */
const reworded: Readonly<Record<string, string>> = {
  background: '[ <bg-layer> , ]* <final-bg-layer>',
  // Values that only one browser has ever supported, or that none supports any more.
  'outline-color': '<color> | invert',
  'text-overflow': 'clip | ellipsis',
  'overflow-clip-margin': '-undefined-',
  'hyphenate-limit-chars': 'auto',
  'dynamic-range-limit': 'standard | no-limit | constrained',
  'image-orientation': 'none | from-image',
  'interest-delay-start': 'normal | <time [0,∞]>',
  'interest-delay-end': 'normal | <time [0,∞]>',
  // SVG 2, sections 7.4 and 13.5.1, in prose: values below zero are invalid.
  r: '<length-percentage [0,∞]>',
  rx: '<length-percentage [0,∞]> | auto',
  ry: '<length-percentage [0,∞]> | auto',
  'stroke-dasharray': 'none | [ <length-percentage [0,∞]> | <number [0,∞]> ]+#',
  'stroke-width': '<length-percentage [0,∞]> | <number [0,∞]>',
};

/** Types that the parser's package defines correctly, and the specifications in other ways. */
const kept = /^(url|rect\(\)|repeat\(\)|auto-repeat|fixed-repeat|track-repeat|name-repeat|an-plus-b|calc-size\(\))$/;

const { properties, types } = lexer as unknown as Record<
  'properties' | 'types',
  Readonly<Record<string, { readonly syntax: DSNode | null } | undefined>>
>;
const read = JSON.parse(readFileSync('node_modules/@webref/css/css.json', 'utf8')) as Specifications;
/** The matcher reads ranges as plain numbers: `[0s,∞]` limits a time. */
const plainRanges = (syntax: string): string =>
  syntax.replace(/\[(-?[\d.∞]+)[a-z%]*,\s*(-?[\d.∞]+)[a-z%]*\]/g, '[$1,$2]');
const byName = (list: readonly Definition[]): Map<string, string> =>
  new Map(
    list
      .toReversed()
      .flatMap(({ name, syntax }) => (syntax === undefined ? [] : [[name, plainRanges(syntax)] as const])),
  );
const specified = {
  properties: new Map([...byName(read.properties), ...Object.entries(reworded)]),
  types: new Map([...byName(read.functions), ...byName(read.types), ...Object.entries(inProse)]),
};

const undefinedTypes: string[] = [];
const found = { properties: {} as Record<string, string>, types: {} as Record<string, string> };

/** Adds the types that a definition refers to. */
function follow(syntax: string): void {
  definitionSyntax.walk(definitionSyntax.parse(syntax), (node: DSNode) => {
    if (node.type === 'Property') addProperty(node.name);
    else if (node.type === 'Type') addType(node.name);
  });
}

function addProperty(name: string): void {
  const own = properties[name]?.syntax;
  const syntax = specified.properties.get(name) ?? (own ? definitionSyntax.generate(own) : undefined);
  if (syntax === undefined || Object.hasOwn(found.properties, name)) return;
  found.properties[name] = syntax;
  follow(syntax);
}

function addType(name: string): void {
  const own = types[name];
  // Those without a definition are tokens, such as numbers, which the matcher knows.
  if (Object.hasOwn(found.types, name) || (own && !own.syntax)) return;
  const syntax =
    (kept.test(name) ? undefined : specified.types.get(name)) ??
    (own?.syntax ? definitionSyntax.generate(own.syntax) : undefined);
  // An undefined type matches nothing.
  found.types[name] = syntax ?? `-undefined-${name.replace('()', '')}`;
  if (syntax === undefined) undefinedTypes.push(name);
  else follow(syntax);
}

for (const name of Object.keys(properties)) if (specified.properties.has(name)) addProperty(name);

const size = await writeTable('src/core/languages/css/support/definitions.json', found);
console.log(`value definitions: ${String(Object.keys(found.properties).length)} properties, ${String(size)} bytes`);
